package longthread.service;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;

import com.tngtech.archunit.core.importer.ImportOption;
import com.tngtech.archunit.junit.AnalyzeClasses;
import com.tngtech.archunit.junit.ArchTest;
import com.tngtech.archunit.lang.ArchRule;

@AnalyzeClasses(packages = "longthread", importOptions = ImportOption.DoNotIncludeTests.class)
class ArchitectureTest {
  @ArchTest
  static final ArchRule core_knows_nothing_of_the_service =
      noClasses()
          .that()
          .resideInAPackage("longthread.core..")
          .should()
          .dependOnClassesThat()
          .resideInAnyPackage("longthread.service..", "org.springframework..", "jakarta..");

  @ArchTest
  static final ArchRule access_stands_by_itself =
      noClasses()
          .that()
          .resideInAPackage("longthread.service.access..")
          .should()
          .dependOnClassesThat()
          .resideInAnyPackage(
              "longthread.service.intake..",
              "longthread.service.catalog..",
              "longthread.service.lineage..",
              "longthread.core..");
}
