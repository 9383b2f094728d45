package longthread.core.workspace;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.TreeSet;
import longthread.core.event.EventFacts;
import longthread.core.event.FacetFact;
import longthread.core.event.UnreadableEventException;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class WorkspaceReaderTest {
  private static final Instant RECEIVED = Instant.parse("2026-11-20T05:00:00Z");

  static String sample() throws IOException {
    try (InputStream in =
        WorkspaceReaderTest.class.getResourceAsStream("/workspaces/farm-payments.json")) {
      return new String(in.readAllBytes(), StandardCharsets.UTF_8);
    }
  }

  private static List<EventFacts> facts(String text) throws UnreadableEventException {
    return LogEntry.read(text.getBytes(StandardCharsets.UTF_8), RECEIVED);
  }

  /** Each link as {@code from flow to}, with short names. */
  private static TreeSet<String> links(List<EventFacts> all) {
    var links = new TreeSet<String>();
    for (EventFacts facts : all) {
      facts.lineage().columns().forEach(link -> links.add(words(link)));
      facts
          .declared()
          .values()
          .forEach(lineage -> lineage.lineage().columns().forEach(link -> links.add(words(link))));
    }
    return links;
  }

  private static String words(longthread.core.lineage.ColumnLink link) {
    return brief(link.from().reference()) + " " + link.flow() + " " + brief(link.to().reference());
  }

  private static String brief(String reference) {
    return reference
        .replace("sightglass://hollinvale/farm-payments/", "")
        .replace("postgres://barn.hollinvale.example:5432/", "")
        .replace("file://office-share.hollinvale.example//", "");
  }

  @Test
  void a_description_gives_the_links_of_every_item() throws Exception {
    assertThat(links(facts(sample())))
        .containsExactlyInAnyOrder(
            "barn.mart.payout_statement#farm_name IDENTITY step/paid#farm",
            "barn.mart.payout_statement#amount IDENTITY step/paid#amount",
            "barn.mart.payout_statement#volume_l IDENTITY step/paid#litres",
            "barn.mart.payout_statement#pickups FILTER step/paid#*",
            "step/paid#amount IDENTITY extracts/paid.csv#paid_amount",
            "step/paid#farm IDENTITY step/paid-again#farm",
            "step/paid#amount IDENTITY step/paid-again#amount",
            "step/paid#litres IDENTITY step/paid-again#litres",
            "step/paid#farm IDENTITY model/payments#farm",
            "step/paid#amount IDENTITY model/payments#amount",
            "step/paid#litres IDENTITY model/payments#litres",
            "model/payments#amount TRANSFORMATION model/payments#price",
            "model/payments#litres TRANSFORMATION model/payments#price",
            "model/payments#litres CONDITIONAL model/payments#price",
            "model/payments#amount AGGREGATION model/payments#total",
            "model/payments#farm IDENTITY chart/price#farm",
            "model/payments#farm GROUP_BY chart/price#*",
            "model/payments#price AGGREGATION chart/price#cents",
            "model/payments#litres FILTER chart/price#*",
            "chart/price#* HOLDS report/payout#*",
            "chart/price#farm HOLDS report/payout#price.farm",
            "chart/price#cents HOLDS report/payout#price.cents",
            "model/payments#farm FILTER report/payout#*");
  }

  @Test
  void a_refresh_is_a_run_and_the_same_one_in_every_description() throws Exception {
    List<EventFacts> runs =
        facts(sample()).stream().filter(facts -> facts.run().isPresent()).toList();
    assertThat(runs).extracting(EventFacts::type).containsExactly("START", "FAIL");
    assertThat(runs)
        .extracting(facts -> facts.run().orElseThrow().job().reference())
        .containsOnly("@sightglass://hollinvale/farm-payments/model/payments");
    List<EventFacts> again = facts(sample().replace("2026-11-20T04:45", "2026-11-21T04:45"));
    assertThat(again.stream().flatMap(facts -> facts.run().stream()).map(run -> run.run()))
        .containsExactlyElementsOf(
            runs.stream().map(facts -> facts.run().orElseThrow().run()).toList());
  }

  @Test
  void an_unchanged_workspace_gives_the_same_values_at_another_time() throws Exception {
    String later = sample().replace("2026-11-20T04:45", "2026-11-21T04:45");
    assertThat(digests(facts(later))).isEqualTo(digests(facts(sample())));
  }

  private static Map<String, String> digests(List<EventFacts> all) {
    var digests = new TreeMap<String, String>();
    for (EventFacts facts : all) {
      for (FacetFact fact : facts.facets()) {
        digests.put(fact.subject() + " " + fact.key(), fact.digest());
      }
    }
    return digests;
  }

  @Test
  void the_example_of_the_documentation_is_sound() throws Exception {
    String page = Files.readString(Path.of("../docs/workspaces.md"));
    String example = page.substring(page.indexOf("```json") + "```json".length());
    example = example.substring(0, example.indexOf("```"));
    assertThat(links(facts(example)))
        .contains(
            "barn.mart.payout_statement#amount IDENTITY step/payout-lines#amount",
            "model/payments#amount TRANSFORMATION model/payments#price_per_litre",
            "model/payments#price_per_litre AGGREGATION chart/price-per-litre#price");
  }

  @Test
  void an_object_without_a_naming_rule_matches_nothing() throws Exception {
    WorkspaceDescription description =
        WorkspaceReader.read(sample().getBytes(StandardCharsets.UTF_8));
    assertThat(description.object("letters", "Letter 3").reference())
        .isEqualTo("sightglass://hollinvale/farm-payments/source/letters/Letter 3");
    assertThat(description.object("barn", "core.farm").reference())
        .isEqualTo("postgres://barn.hollinvale.example:5432/barn.core.farm");
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "\"of\": \"model/payments\", \"start\" | \"of\": \"model/payment\", \"start\" |"
            + " /refreshes/0/of | payment",
        "\"field\": \"farm\", \"use\" | \"field\": \"farn\", \"use\" |"
            + " /charts/0/fields/0/field | farn",
        "\"through\": \"vale-relay\" | \"through\": \"relay\" | /connections/0/through | relay",
        "\"connection\": \"barn\" | \"connection\": \"bran\" | /steps/0/inputs/0/connection | bran",
        "\"reuses\": \"step/paid\" | \"reuses\": \"step/pade\" | /steps/1/reuses | step/pade",
        "\"uses\": [\"amount\"] | \"uses\": [\"amonut\"] | /models/0/fields/4/uses/0 | amonut",
        "[\"chart/price\"] | [\"chart/prices\"] | /reports/0/charts/0 | chart/prices",
        "\"id\": \"paid-again\" | \"id\": \"paid\" | /steps/1/id | twice",
        "\"state\": \"failed\" | \"state\": \"broken\" | /refreshes/0/state | completed",
        "\"reads\": 31 | \"reads\": \"many\" | /usage/0/reads | whole number",
        "T04:01:00Z | T03:01:00Z | /refreshes/0/end | before",
        "\"title\": \"Farm Payments\" | \"titel\": \"Farm Payments\" | /workspace | titel",
        "2026-11-20T04:45:00Z | yesterday | /at | with an offset",
        "\"object\": \"payout_statement\" | \"item\": \"step/paid\" | /steps/0/inputs/0 |"
            + " either",
        "longthread-workspace/1 | longthread-workspace/9 | /format | longthread-workspace/1"
      })
  void a_fault_is_named_with_its_place(String good, String bad, String pointer, String words)
      throws IOException {
    String text = sample();
    assertThat(text).contains(good);
    BadWorkspaceException thrown =
        catchThrowableOfType(
            BadWorkspaceException.class,
            () -> WorkspaceReader.read(text.replace(good, bad).getBytes(StandardCharsets.UTF_8)));
    assertThat(thrown.faults())
        .anySatisfy(
            fault -> {
              assertThat(fault.pointer()).isEqualTo(pointer);
              assertThat(fault.detail()).contains(words);
            });
  }

  @Test
  void a_difference_names_what_was_added_removed_and_changed() throws Exception {
    String text = sample();
    String other =
        text.replace("\"id\": \"paid-again\"", "\"id\": \"paid-more\"")
            .replace("Paid for one litre", "Paid per litre")
            .replace("2026-11-20T04:45", "2026-11-21T04:45");
    List<WorkspaceDifference> differences =
        WorkspaceDifference.between(content(text), content(other));
    assertThat(differences)
        .extracting(
            d ->
                d.what()
                    + " "
                    + d.change()
                    + " "
                    + d.members().stream().map(m -> m.name()).toList())
        .containsExactly(
            "step/paid-more added []",
            "model/payments changed [fields/price]",
            "step/paid-again removed []");
    assertThat(WorkspaceDifference.between(content(text), content(text))).isEmpty();
  }

  private static tools.jackson.databind.JsonNode content(String text) throws Exception {
    return WorkspaceReader.read(text.getBytes(StandardCharsets.UTF_8)).content();
  }
}
