package longthread.core;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.classes;
import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;

import com.tngtech.archunit.core.importer.ImportOption;
import com.tngtech.archunit.junit.AnalyzeClasses;
import com.tngtech.archunit.junit.ArchTest;
import com.tngtech.archunit.lang.ArchRule;

@AnalyzeClasses(packages = "longthread.core", importOptions = ImportOption.DoNotIncludeTests.class)
class ArchitectureTest {
  @ArchTest
  static final ArchRule core_depends_on_nothing_outward =
      classes()
          .should()
          .onlyDependOnClassesThat()
          .resideInAnyPackage(
              "longthread.core..",
              "java..",
              "javax.crypto..", // of Java itself, for hashes that are shown of values
              "javax.xml.stream..",
              "org.jspecify..",
              "tools.jackson..",
              "net.sf.jsqlparser..",
              "com.google.re2j..",
              "com.networknt..",
              "org.yaml.snakeyaml..");

  @ArchTest
  static final ArchRule only_the_reading_of_sql_knows_its_parser =
      noClasses()
          .that()
          .resideOutsideOfPackage("longthread.core.sql..")
          .should()
          .dependOnClassesThat()
          .resideInAPackage("net.sf.jsqlparser..");

  @ArchTest
  static final ArchRule core_has_no_clock_of_its_own =
      noClasses()
          .should()
          .callMethod(java.time.Instant.class, "now")
          .orShould()
          .callMethod(System.class, "currentTimeMillis")
          .orShould()
          .dependOnClassesThat()
          .areAssignableTo(java.time.Clock.class);

  @ArchTest
  static final ArchRule packages_do_not_go_round_in_circles =
      slices().matching("longthread.core.(*)..").should().beFreeOfCycles();
}
