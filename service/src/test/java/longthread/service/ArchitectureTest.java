package longthread.service;

import static com.tngtech.archunit.core.domain.JavaClass.Predicates.resideInAPackage;
import static com.tngtech.archunit.core.domain.JavaClass.Predicates.resideInAnyPackage;
import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.classes;
import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.Architectures.layeredArchitecture;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;

import com.tngtech.archunit.core.importer.ImportOption;
import com.tngtech.archunit.junit.AnalyzeClasses;
import com.tngtech.archunit.junit.ArchTest;
import com.tngtech.archunit.lang.ArchRule;
import java.util.List;
import org.springframework.web.bind.annotation.RestController;

/** How the packages of the service may depend on each other, as its package page says. */
@AnalyzeClasses(packages = "longthread", importOptions = ImportOption.DoNotIncludeTests.class)
class ArchitectureTest {
  /** From the top down; a package uses only those below it, and all may use {@code web}. */
  private static final List<String> ORDER =
      List.of(
          "today",
          "tickets",
          "sharing",
          "trail",
          "watches",
          "sources",
          "coverage",
          "preview",
          "stewardship",
          "workspaces",
          "views",
          "planned",
          "impact",
          "proof",
          "leaks",
          "labels",
          "cause",
          "lineage",
          "exact",
          "catalog",
          "health",
          "notices",
          "statements",
          "runs",
          "job",
          "sql",
          "intake",
          "access",
          "audit",
          "rebuild",
          "apply",
          "live",
          "log",
          "storage");

  @ArchTest
  static final ArchRule core_depends_on_no_other_module =
      noClasses()
          .that()
          .resideInAPackage("longthread.core..")
          .should()
          .dependOnClassesThat()
          .resideInAnyPackage("longthread.service..", "org.springframework..", "jakarta..");

  @ArchTest
  static final ArchRule packages_have_no_cycles =
      slices().matching("longthread.service.(*)..").should().beFreeOfCycles();

  @ArchTest static final ArchRule dependencies_run_downwards = dependenciesRunDownwards();

  private static ArchRule dependenciesRunDownwards() {
    var layers = layeredArchitecture().consideringOnlyDependenciesInLayers();
    for (String name : ORDER) {
      layers = layers.layer(name).definedBy("longthread.service." + name + "..");
    }
    for (int i = 1; i < ORDER.size(); i++) {
      // The fast path of the intake checks keys before any filter does.
      layers =
          layers
              .whereLayer(ORDER.get(i))
              .mayOnlyBeAccessedByLayers(ORDER.subList(0, i).toArray(String[]::new));
    }
    return layers.whereLayer(ORDER.get(0)).mayNotBeAccessedByAnyLayer();
  }

  @ArchTest
  static final ArchRule web_depends_on_no_other_package_of_the_service =
      noClasses()
          .that()
          .resideInAPackage("longthread.service.web..")
          .should()
          .dependOnClassesThat(
              resideInAPackage("longthread.service..")
                  .and(
                      com.tngtech.archunit.base.DescribedPredicate.not(
                          resideInAPackage("longthread.service.web.."))));

  @ArchTest
  static final ArchRule only_storage_knows_the_database =
      noClasses()
          .that()
          .resideInAPackage("longthread.service..")
          .and()
          .resideOutsideOfPackage("longthread.service.storage..")
          .should()
          .dependOnClassesThat(
              resideInAnyPackage(
                  "java.sql..",
                  "javax.sql..",
                  "org.hibernate..",
                  "jakarta.persistence..",
                  "org.postgresql..",
                  "org.springframework.jdbc..",
                  "org.springframework.orm.."));

  @ArchTest
  static final ArchRule controllers_leave_the_database_to_services =
      noClasses()
          .that()
          .areAnnotatedWith(RestController.class)
          .should()
          .dependOnClassesThat()
          .haveSimpleNameEndingWith("Queries");

  @ArchTest
  static final ArchRule entities_stay_in_storage =
      classes()
          .that()
          .areAnnotatedWith("jakarta.persistence.Entity")
          .should()
          .resideInAPackage("longthread.service.storage..")
          .andShould()
          .bePackagePrivate();
}
