package longthread.client;

import java.io.StringWriter;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import javax.xml.stream.XMLOutputFactory;
import javax.xml.stream.XMLStreamException;
import javax.xml.stream.XMLStreamWriter;
import longthread.core.gate.FoundChange;
import longthread.core.gate.GatePolicy.Decision;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * The report of the gate in formats that other tools read.
 *
 * @see "OASIS, SARIF 2.1.0; the JUnit XML that build servers read"
 */
final class GateFormats {
  private static final JsonMapper JSON = new JsonMapper();
  private static final int MAX_LISTED = 50;

  private GateFormats() {}

  static ObjectNode json(GateReport report) {
    ObjectNode root = JSON.createObjectNode();
    root.put("title", report.title())
        .put("passes", !report.fails())
        .put("summary", report.summary());
    ArrayNode steps = root.putArray("changes");
    for (GateReport.Step step : report.steps()) {
      ObjectNode node =
          steps.addObject().put("change", step.change()).put("of", step.ref()).put("to", step.to());
      if (step.seen() != null) {
        place(node, step.seen());
      }
    }
    ArrayNode items = root.putArray("items");
    for (GateReport.Finding finding : report.findings()) {
      ObjectNode node =
          items
              .addObject()
              .put("ref", finding.ref())
              .put("kind", finding.kind())
              .put("name", finding.name())
              .put("verdict", finding.verdict())
              .put("certainty", finding.certainty())
              .put("hops", finding.hops())
              .put("decision", finding.decision().word())
              .put("why", finding.why())
              .put("url", finding.url());
      node.set("owners", JSON.valueToTree(finding.owners()));
    }
    ArrayNode unknown = root.putArray("unknown");
    report.unknown().forEach(found -> place(unknown.addObject().put("of", found.of()), found));
    root.set("notes", JSON.valueToTree(report.notes()));
    return root;
  }

  private static void place(ObjectNode node, FoundChange seen) {
    node.put("file", seen.file()).put("line", seen.line()).put("seen", seen.why());
  }

  // ------------------------------------------------------------------ SARIF

  static String sarif(GateReport report) {
    ObjectNode root = JSON.createObjectNode();
    root.put("$schema", "https://json.schemastore.org/sarif-2.1.0.json").put("version", "2.1.0");
    ObjectNode run = root.putArray("runs").addObject();
    ObjectNode driver = run.putObject("tool").putObject("driver").put("name", "longthread gate");
    ArrayNode rules = driver.putArray("rules");
    for (String verdict :
        List.of("breaks", "goes-stale", "values-shift", "rows-shift", "unknown")) {
      rules
          .addObject()
          .put("id", verdict)
          .putObject("shortDescription")
          .put(
              "text",
              verdict.equals("unknown") ? "not in the catalog" : ClosedWords.spoken(verdict));
    }
    ArrayNode results = run.putArray("results");
    for (GateReport.Finding finding : report.findings()) {
      ObjectNode result =
          results
              .addObject()
              .put("ruleId", finding.verdict())
              .put("level", level(finding.decision()));
      result
          .putObject("message")
          .put(
              "text",
              finding.name()
                  + " "
                  + finding.verdictWords()
                  + " ("
                  + finding.kind()
                  + ", owners: "
                  + (finding.owners().isEmpty() ? "none" : String.join(", ", finding.owners()))
                  + "); "
                  + finding.why());
      locations(result, finding.place());
      result.putObject("partialFingerprints").put("item", finding.ref());
      if (!finding.url().isEmpty()) {
        result.put("hostedViewerUri", finding.url());
      }
    }
    for (FoundChange found : report.unknown()) {
      ObjectNode result =
          results
              .addObject()
              .put("ruleId", "unknown")
              .put("level", level(report.unknownDecision()));
      result
          .putObject("message")
          .put("text", found.of() + " is not in the catalog, so it was not judged: " + found.why());
      locations(result, found);
    }
    return JSON.writerWithDefaultPrettyPrinter().writeValueAsString(root);
  }

  private static String level(Decision decision) {
    return switch (decision) {
      case FAIL -> "error";
      case WARN -> "warning";
      case ALLOW -> "note";
    };
  }

  private static void locations(ObjectNode result, @Nullable FoundChange place) {
    ArrayNode locations = result.putArray("locations");
    if (place != null) {
      ObjectNode physical = locations.addObject().putObject("physicalLocation");
      physical.putObject("artifactLocation").put("uri", place.file());
      physical.putObject("region").put("startLine", place.line());
    }
  }

  // ------------------------------------------------------------------ JUnit XML

  static String junit(GateReport report) {
    var text = new StringWriter();
    try {
      XMLStreamWriter xml = XMLOutputFactory.newFactory().createXMLStreamWriter(text);
      xml.writeStartDocument("UTF-8", "1.0");
      xml.writeStartElement("testsuite");
      long failures =
          report.count(Decision.FAIL)
              + (report.unknownDecision() == Decision.FAIL ? report.unknown().size() : 0);
      attributes(
          xml,
          Map.of(
              "name", "longthread gate",
              "tests", "" + Math.max(1, report.findings().size() + report.unknown().size()),
              "failures", "" + failures));
      if (report.findings().isEmpty() && report.unknown().isEmpty()) {
        xml.writeEmptyElement("testcase");
        attributes(xml, Map.of("classname", "gate", "name", "nothing is touched"));
      }
      for (GateReport.Finding finding : report.findings()) {
        testcase(
            xml,
            finding.verdict(),
            finding.name() + " (" + finding.ref() + ")",
            finding.decision(),
            finding.verdictWords() + "; " + finding.why(),
            finding.thread());
      }
      for (FoundChange found : report.unknown()) {
        testcase(
            xml,
            "unknown",
            found.of(),
            report.unknownDecision(),
            "not in the catalog, so it was not judged",
            found.file() + ":" + found.line() + ": " + found.why());
      }
      xml.writeEndElement();
      xml.writeEndDocument();
      xml.close();
    } catch (XMLStreamException e) {
      throw new IllegalStateException("a report could not be written as XML", e);
    }
    return text.toString();
  }

  private static void testcase(
      XMLStreamWriter xml,
      String group,
      String name,
      Decision decision,
      String message,
      String more)
      throws XMLStreamException {
    xml.writeStartElement("testcase");
    attributes(xml, Map.of("classname", "gate." + group, "name", plain(name)));
    if (decision == Decision.FAIL) {
      xml.writeStartElement("failure");
      xml.writeAttribute("message", plain(message));
      xml.writeCharacters(plain(more));
      xml.writeEndElement();
    } else {
      xml.writeStartElement("system-out");
      xml.writeCharacters(plain(message));
      xml.writeEndElement();
    }
    xml.writeEndElement();
  }

  private static void attributes(XMLStreamWriter xml, Map<String, String> attributes)
      throws XMLStreamException {
    for (String name : attributes.keySet().stream().sorted().toList()) {
      xml.writeAttribute(name, attributes.get(name));
    }
  }

  /** A text without the characters that XML cannot hold. */
  private static String plain(String text) {
    return text.replaceAll("[\\x00-\\x08\\x0B\\x0C\\x0E-\\x1F\\uFFFE\\uFFFF]", "?");
  }

  // ------------------------------------------------------------------ Markdown

  static String markdown(GateReport report) {
    var out = new StringBuilder();
    out.append("### ")
        .append(report.fails() ? "❌ " : "✅ ")
        .append(cell(report.title()))
        .append("\n\n");
    out.append(cell(report.summary())).append("\n\n");
    for (GateReport.Step step : report.steps()) {
      out.append("- `").append(step.words()).append('`');
      if (step.seen() != null) {
        out.append(" ").append(step.seen().file()).append(':').append(step.seen().line());
      }
      out.append('\n');
    }
    for (Decision decision : List.of(Decision.FAIL, Decision.WARN, Decision.ALLOW)) {
      List<GateReport.Finding> some =
          report.findings().stream().filter(f -> f.decision() == decision).toList();
      if (some.isEmpty()) {
        continue;
      }
      out.append("\n**")
          .append(
              switch (decision) {
                case FAIL -> "Not allowed";
                case WARN -> "To know of";
                case ALLOW -> "Allowed";
              })
          .append("** (")
          .append(some.size())
          .append(")\n\n| verdict | what | owners | decided by |\n|---|---|---|---|\n");
      some.stream()
          .limit(MAX_LISTED)
          .forEach(
              f ->
                  out.append("| ")
                      .append(f.verdictWords())
                      .append(" | ")
                      .append(linked(f))
                      .append(" (")
                      .append(f.kind())
                      .append(") | ")
                      .append(cell(String.join(", ", f.owners())))
                      .append(" | ")
                      .append(cell(f.why()))
                      .append(" |\n"));
      if (some.size() > MAX_LISTED) {
        out.append("\n… and ").append(some.size() - MAX_LISTED).append(" more\n");
      }
    }
    if (!report.unknown().isEmpty()) {
      out.append("\n**Not in the catalog, so not judged**\n\n");
      report
          .unknown()
          .forEach(
              f ->
                  out.append("- `")
                      .append(f.of())
                      .append("` ")
                      .append(f.file())
                      .append(':')
                      .append(f.line())
                      .append(": ")
                      .append(cell(f.why()))
                      .append('\n'));
    }
    report.notes().forEach(note -> out.append("\n> ").append(cell(note)).append('\n'));
    return out.toString();
  }

  private static String linked(GateReport.Finding finding) {
    String name = cell(finding.name());
    return finding.url().isEmpty() ? name : "[" + name + "](" + finding.url() + ")";
  }

  private static String cell(String text) {
    return text.replace("\\", "\\\\").replace("|", "\\|").replace("\n", " ").replace("<", "&lt;");
  }

  static String word(Decision decision) {
    return switch (decision) {
      case FAIL -> "NOT ALLOWED";
      case WARN -> "to know of";
      case ALLOW -> decision.word().toLowerCase(Locale.ROOT) + "ed";
    };
  }
}
