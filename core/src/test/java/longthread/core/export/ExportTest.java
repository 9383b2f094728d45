package longthread.core.export;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.StringWriter;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeSet;
import javax.xml.parsers.DocumentBuilderFactory;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import longthread.core.asset.Owner;
import longthread.core.event.EventFacts;
import longthread.core.event.EventReader;
import longthread.core.json.CanonicalJson;
import longthread.core.lineage.ColumnLink;
import longthread.core.lineage.Flow;
import longthread.core.lineage.ReportedLineage;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.xml.sax.InputSource;
import tools.jackson.databind.node.ObjectNode;

class ExportTest {
  private static final Instant AT = Instant.parse("2026-11-01T00:00:00Z");

  private static ExportedGraph.Asset asset(String ref, String... columns) {
    var listed = new ArrayList<ExportedGraph.Column>();
    for (String column : columns) {
      listed.add(new ExportedGraph.Column(column, "text", null));
    }
    return new ExportedGraph.Asset(
        ref,
        "table",
        ref.substring(2),
        "barn",
        "All \"of\"\nit",
        List.of(Owner.of("team:Milk", null)),
        listed);
  }

  private static ExportedGraph.Link link(String from, String to, Flow flow, String maker) {
    String[] source = from.split("#");
    String[] target = to.split("#");
    return new ExportedGraph.Link(
        source[0],
        source.length > 1 ? source[1] : "*",
        target[0],
        target.length > 1 ? target[1] : "*",
        flow,
        false,
        maker);
  }

  private static ExportedGraph small() {
    return new ExportedGraph(
        List.of(asset("w/farm", "iban"), asset("w/list", "account")),
        List.of(new ExportedGraph.Job("@n/copy", "job", "copy", "night", List.of(), AT)),
        List.of(
            link("w/farm#iban", "w/list#account", Flow.IDENTITY, "@n/copy"),
            link("w/farm", "w/list", Flow.ROWS, "@n/copy")));
  }

  @Test
  void a_picture_has_boxes_with_columns_and_lines_with_words() throws Exception {
    var out = new StringBuilder();
    Dot.write(small(), out);
    assertThat(out.toString())
        .isEqualTo(
            """
            digraph lineage {
              rankdir=LR;
              node [shape=box];
              subgraph cluster_0 {
                label="farm\\nbarn";
                "w/farm" [label="rows", shape=plaintext];
                "w/farm#iban" [label="iban"];
              }
              subgraph cluster_1 {
                label="list\\nbarn";
                "w/list" [label="rows", shape=plaintext];
                "w/list#account" [label="account"];
              }
              "w/farm" -> "w/list" [label="feeds rows", tooltip="@n/copy"];
              "w/farm#iban" -> "w/list#account" [label="copied", tooltip="@n/copy"];
            }
            """);
    out.setLength(0);
    Dot.write(small().withoutColumns(), out);
    assertThat(out.toString())
        .contains("\"w/farm\" [label=\"farm\\nbarn\"];")
        .doesNotContain("iban");
  }

  @Test
  void graphml_is_well_formed_whatever_stands_in_names() throws Exception {
    var odd =
        new ExportedGraph(
            List.of(asset("w/<a&b>\u0001", "c\"'")),
            List.of(),
            List.of(link("w/<a&b>\u0001#c\"'", "w/<a&b>\u0001", Flow.COARSE, "w/x")));
    for (ExportedGraph graph : List.of(small(), odd)) {
      var out = new StringWriter();
      GraphMl.write(graph, out);
      var document =
          DocumentBuilderFactory.newInstance()
              .newDocumentBuilder()
              .parse(new InputSource(new java.io.StringReader(out.toString())));
      assertThat(document.getElementsByTagName("edge").getLength()).isEqualTo(graph.links().size());
      assertThat(document.getElementsByTagName("node").getLength())
          .isEqualTo(graph.assets().stream().mapToInt(a -> 1 + a.columns().size()).sum());
    }
  }

  @Test
  void prov_says_what_was_derived_from_what_by_which_activity() {
    ObjectNode prov = ProvJson.of(small(), "https://catalog.example/");
    assertThat(prov.path("prefix").path("lt").stringValue()).isEqualTo("https://catalog.example/");
    assertThat(prov.path("entity").propertyNames())
        .contains("lt:w%2Ffarm", "lt:w%2Ffarm%23iban", "lt:w%2Flist%23account");
    assertThat(prov.path("activity").path("lt:%40n%2Fcopy").path("prov:label").stringValue())
        .isEqualTo("copy");
    assertThat(prov.path("wasDerivedFrom").toString())
        .contains(
            "\"prov:generatedEntity\":\"lt:w%2Flist%23account\",\"prov:usedEntity\":\"lt:w%2Ffarm%23iban\"");
    assertThat(prov.path("used")).hasSize(1);
    assertThat(prov.path("wasGeneratedBy")).hasSize(1);
    assertThat(prov.path("agent")).hasSize(1);
    assertThat(prov.path("wasAttributedTo")).hasSize(2);
  }

  // ------------------------------------------------------------------ events

  /** What a catalog makes of the events: the links of each maker. */
  private static Map<String, TreeSet<ColumnLink>> read(List<ObjectNode> events) throws Exception {
    var links = new LinkedHashMap<String, TreeSet<ColumnLink>>();
    for (ObjectNode event : events) {
      byte[] bytes =
          CanonicalJson.MAPPER.writeValueAsString(event).getBytes(StandardCharsets.UTF_8);
      EventFacts facts = EventReader.read(bytes, AT);
      assertThat(facts.warnings()).isEmpty();
      if (facts.job() != null) {
        links.put(facts.job().reference(), new TreeSet<>(facts.lineage().links()));
      }
      facts
          .declared()
          .forEach(
              (dataset, lineage) ->
                  links.put(dataset.reference(), new TreeSet<>(lineage.lineage().links())));
    }
    return links;
  }

  private static ColumnName column(String asset, String path) {
    return path.equals("*")
        ? ColumnName.rowsOf(DatasetName.parse(asset))
        : new ColumnName(DatasetName.parse(asset), path);
  }

  /** Lineage of any kind, as runs report it and as SQL adds it. */
  private static ReportedLineage lineage(Random random) {
    var inputs = new TreeSet<DatasetName>();
    var outputs = new TreeSet<DatasetName>();
    var columns = new TreeSet<ColumnLink>();
    var described = new TreeSet<ColumnName>();
    for (int i = 0; i <= random.nextInt(3); i++) {
      inputs.add(new DatasetName("in", "t" + i));
    }
    for (int i = 0; i <= random.nextInt(2); i++) {
      outputs.add(new DatasetName("out", "t" + i));
    }
    List<Flow> flows =
        List.of(
            Flow.IDENTITY,
            Flow.TRANSFORMATION,
            Flow.AGGREGATION,
            Flow.DIRECT,
            Flow.CONDITIONAL,
            Flow.WINDOW,
            Flow.JOIN,
            Flow.FILTER,
            Flow.GROUP_BY,
            Flow.SORT,
            Flow.INDIRECT,
            Flow.ROWS_TO_VALUE,
            Flow.COARSE,
            Flow.READS);
    var in = List.copyOf(inputs);
    var out = List.copyOf(outputs);
    for (int i = random.nextInt(6); i > 0; i--) {
      Flow flow = flows.get(random.nextInt(flows.size()));
      DatasetName from = in.get(random.nextInt(in.size()));
      DatasetName to = out.get(random.nextInt(out.size()));
      boolean ofRows =
          flow.group() == Flow.Group.DECIDES_ROWS || flow == Flow.COARSE || flow == Flow.READS;
      ColumnName source =
          flow == Flow.ROWS_TO_VALUE
              ? ColumnName.rowsOf(from)
              : new ColumnName(from, "c" + random.nextInt(3));
      ColumnName target =
          ofRows ? ColumnName.rowsOf(to) : new ColumnName(to, "c" + random.nextInt(3));
      boolean masking = flow.carriesValues() && random.nextInt(4) == 0;
      columns.add(new ColumnLink(source, target, flow, masking));
      if (!ofRows) {
        described.add(target);
      }
    }
    return new ReportedLineage(inputs, outputs, columns, described, new TreeSet<>(), false);
  }

  @Property(tries = 500)
  void events_give_the_same_links_when_they_are_read_again(@ForAll long seed) throws Exception {
    var random = new Random(seed);
    var wanted = new LinkedHashMap<String, TreeSet<ColumnLink>>();
    var links = new ArrayList<ExportedGraph.Link>();
    for (String job : List.of("@n/a", "@n/b")) {
      var of = new TreeSet<>(lineage(random).links());
      wanted.put(job, of);
      for (ColumnLink link : of) {
        links.add(
            new ExportedGraph.Link(
                link.from().dataset().reference(),
                link.from().path(),
                link.to().dataset().reference(),
                link.to().path(),
                link.flow(),
                link.masking(),
                job));
      }
    }
    wanted.values().removeIf(TreeSet::isEmpty);
    var graph = new ExportedGraph(List.of(), List.of(), links);
    assertThat(read(LineageEvents.of(graph, "https://catalog.example/", AT))).isEqualTo(wanted);
  }

  @Test
  void charts_that_a_page_holds_and_datasets_that_declare_their_sources_come_back()
      throws Exception {
    var graph =
        new ExportedGraph(
            List.of(asset("b/page", "total.paid"), asset("b/chart", "paid")),
            List.of(),
            List.of(
                link("b/chart", "b/page", Flow.HOLDS, "b/page"),
                link("b/chart#paid", "b/page#total.paid", Flow.HOLDS, "b/page"),
                link("w/list#account", "b/chart#paid", Flow.TRANSFORMATION, "b/chart"),
                link("w/list", "b/chart", Flow.ROWS, "b/chart")));
    Map<String, TreeSet<ColumnLink>> read =
        read(LineageEvents.of(graph, "https://catalog.example/", AT));
    assertThat(read.get("b/page"))
        .contains(
            new ColumnLink(
                column("b/chart", "paid"), column("b/page", "total.paid"), Flow.HOLDS, false),
            new ColumnLink(column("b/chart", "*"), column("b/page", "*"), Flow.HOLDS, false));
    assertThat(read.get("b/chart")).hasSize(2);
  }
}
