package longthread.core.asset;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class ReferenceTest {
  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "postgres://barn:5432|barn.mart.x|postgres://barn:5432/barn.mart.x",
        "file|/data/a b|file//data/a b",
        "s3://lake|landed/pickup|s3://lake/landed/pickup",
        "sqlserver://h:1/inst|d.s.t|sqlserver://h:1%2Finst/d.s.t",
        "a/b|c|a%2Fb/c",
        "@team|x|%40team/x",
        "run:1|x|%72un:1/x",
        "system:y|x|%73ystem:y/x",
        "n|50%#1|n/50%25%231",
        "file:|//x|file%3A///x",
        "file://|/x|file:////x",
      })
  void a_dataset_is_written_so_that_it_reads_back(String namespace, String name, String text) {
    var dataset = new DatasetName(namespace, name);
    assertThat(dataset.reference()).isEqualTo(text);
    assertThat(Reference.parse(text)).isEqualTo(new Reference.OfDataset(dataset, null));
  }

  @Test
  void a_job_a_column_a_run_and_a_system_are_distinguished() {
    assertThat(Reference.parse("@nightshift/a.b"))
        .isEqualTo(new Reference.OfJob(new JobName("nightshift", "a.b")));
    assertThat(Reference.parse("n/d#a.b"))
        .isEqualTo(new Reference.OfDataset(new DatasetName("n", "d"), "a.b"));
    assertThat(Reference.parse("run:01910000-0000-7000-8000-000000002501"))
        .isInstanceOf(Reference.OfRun.class);
    assertThat(Reference.parse("system:lab drop")).isEqualTo(new Reference.OfSystem("lab drop"));
  }

  @Test
  void a_column_segment_keeps_its_dots_and_a_star_apart_from_the_rows() {
    assertThat(ColumnName.of(new DatasetName("n", "d"), "a.b").path()).isEqualTo("a%2Eb");
    assertThat(ColumnName.of(new DatasetName("n", "d"), "*").path()).isEqualTo("%2A");
    assertThat(ColumnName.rowsOf(new DatasetName("n", "d")).path()).isEqualTo("*");
  }

  @ParameterizedTest
  @ValueSource(strings = {"plain", "n/", "run:no-uuid", "n/d#", "@n/j#c", "n/%zz", "n/%e", "n/%ff"})
  void what_is_no_reference_is_refused(String text) {
    assertThatThrownBy(() -> Reference.parse(text)).isInstanceOf(BadNameException.class);
  }

  @Test
  void half_a_surrogate_pair_is_no_name() {
    assertThatThrownBy(() -> new DatasetName("n", "a\ud800b")).isInstanceOf(BadNameException.class);
    assertThat(new DatasetName("n", "a\ud83d\ude00b").name()).hasSize(4);
  }

  @Property
  void any_pair_reads_back(@ForAll("names") String namespace, @ForAll("names") String name) {
    var dataset = new DatasetName(namespace, name);
    assertThat(Reference.parse(dataset.reference()))
        .isEqualTo(new Reference.OfDataset(dataset, null));
    var job = new JobName(namespace, name);
    assertThat(Reference.parse(job.reference())).isEqualTo(new Reference.OfJob(job));
  }

  @Property
  void different_pairs_never_share_a_reference(
      @ForAll("names") String a,
      @ForAll("names") String b,
      @ForAll("names") String c,
      @ForAll("names") String d) {
    boolean same = a.equals(c) && b.equals(d);
    assertThat(new DatasetName(a, b).reference().equals(new DatasetName(c, d).reference()))
        .isEqualTo(same);
  }

  @Provide
  Arbitrary<String> names() {
    Arbitrary<String> odd =
        Arbitraries.strings().withChars("ab/:@#%.*\u0000 \u00e9").ofMinLength(1).ofMaxLength(9);
    Arbitrary<String> usual =
        Arbitraries.of(
            "postgres://h:1",
            "file",
            "file://",
            "s3://b/",
            "run:",
            "system:",
            "@",
            "x:",
            "://",
            "/");
    return Arbitraries.oneOf(odd, usual);
  }
}
