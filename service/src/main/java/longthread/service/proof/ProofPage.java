package longthread.service.proof;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import longthread.service.web.OutgoingText;
import tools.jackson.databind.JsonNode;

/** A proof as a page of its own that prints well: no script, no other file. */
final class ProofPage {
  private static final String STYLE =
      """
      body { font: 11pt/1.45 'Source Sans 3','Noto Sans','DejaVu Sans',sans-serif; color: #23302e;
        max-width: 62em; margin: 2em auto; padding: 0 1.5em; }
      h1 { font-size: 18pt; margin-bottom: 0; } h2 { font-size: 13pt; margin: 1.6em 0 .4em; }
      table { border-collapse: collapse; width: 100%; font-size: 9.5pt; }
      td.time { white-space: nowrap; }
      th, td { text-align: left; vertical-align: top; padding: 3px 10px 3px 0;
        border-bottom: 1px solid #ddd6c8; }
      thead { display: table-header-group; } tr { break-inside: avoid; }
      code, pre { font: 8.5pt/1.4 'DejaVu Sans Mono',monospace; overflow-wrap: anywhere; }
      pre { white-space: pre-wrap; border-left: 3px solid #ddd6c8; padding-left: 10px; }
      .quiet { color: #6d7471; } .older { color: #b4690e; }
      footer { margin-top: 2em; border-top: 1px solid #ddd6c8; }
      @media print { body { margin: 0; max-width: none; } a { color: inherit; } }
      @page { margin: 16mm; @bottom-right { content: counter(page); } }
      """;

  private static final int SECONDS = "2031-05-01T02:00:00".length();

  private final StringBuilder out = new StringBuilder();
  private final Map<String, String> nameOf = new HashMap<>();

  private ProofPage() {}

  /** The page, as HTML. */
  static String of(JsonNode proof) {
    var page = new ProofPage();
    page.write(proof);
    return page.out.toString();
  }

  private void write(JsonNode proof) {
    String name = text(proof.path("about"), "name");
    out.append("<!doctype html><html lang=\"en\"><meta charset=\"utf-8\"><title>Proof: ")
        .append(escaped(name))
        .append("</title><style>")
        .append(STYLE)
        .append("</style><h1>What was behind ")
        .append(escaped(name))
        .append("</h1><p>As of <b>")
        .append(escaped(time(proof, "at")))
        .append(" UTC</b>, like all times here. <span class=\"quiet\">")
        .append(escaped(text(proof.path("about"), "ref")))
        .append("</span></p><p><b>")
        .append(escaped(text(proof, "summary")))
        .append("</b></p>");
    proof.path("outdated").forEach(words -> paragraph("older", words.stringValue("") + "."));
    proof
        .path("runs")
        .forEach(
            run -> nameOf.put(text(run, "ref"), text(run, "name") + ", " + time(run, "start")));
    writeRuns(proof);
    writeDoubts(proof);
    writeChecks(proof);
    writeNotices(proof);
    writePeople(proof);
    writeCode(proof);
    writeEvents(proof);
    out.append("<footer><p>Made ")
        .append(escaped(time(proof, "madeAt")))
        .append(" by ")
        .append(escaped(text(proof, "madeBy")))
        .append(". Digest <code>")
        .append(escaped(text(proof, "digest")))
        .append("</code>, signed with ")
        .append(escaped(text(proof.path("signature"), "algorithm")))
        .append(": <code>")
        .append(escaped(text(proof.path("signature"), "value")))
        .append("</code>. The same proof as JSON is checked with ")
        .append("<code>longthread prove --check FILE</code>.</p></footer></html>");
  }

  private void writeRuns(JsonNode proof) {
    var read = new HashMap<String, List<String>>();
    for (JsonNode use : proof.path("readings")) {
      String part = text(use, "part");
      read.computeIfAbsent(text(use, "reader"), k -> new ArrayList<>())
          .add(text(use, "name") + (part.isEmpty() ? "" : " (" + part + ")"));
    }
    head("Runs", "Started", "Ended", "Job", "Version", "Read", "");
    for (JsonNode run : proof.path("runs")) {
      String newest =
          run.path("newest").isObject() ? ", now " + run.path("newest").path("number") : "";
      row(
          time(run, "start"),
          time(run, "end"),
          text(run, "name"),
          (run.path("version").isNumber() ? run.path("version").toString() : "not known") + newest,
          String.join("; ", read.getOrDefault(text(run, "ref"), List.of())),
          run.path("certain").booleanValue() ? "certain" : "possible");
    }
    out.append("</table>");
    list("Sources, which no known run had written by then", proof.path("sources"));
  }

  private void writeDoubts(JsonNode proof) {
    var lines = new ArrayList<String>();
    for (JsonNode use : proof.path("readings")) {
      for (JsonNode load : use.path("loads")) {
        if (!load.path("certain").booleanValue()) {
          var why = new ArrayList<String>();
          load.path("doubts").forEach(doubt -> why.add(text(doubt, "words")));
          String reader = text(use, "reader");
          lines.add(
              (reader.isEmpty() ? "What was there" : nameOf.getOrDefault(reader, reader))
                  + " may hold "
                  + text(use, "name")
                  + " as written by "
                  + nameOf.getOrDefault(text(load, "run"), text(load, "run"))
                  + ": "
                  + String.join("; ", why)
                  + ".");
        }
      }
    }
    if (!lines.isEmpty()) {
      out.append("<h2>Ambiguous</h2><ul>");
      lines.forEach(line -> out.append("<li>").append(escaped(line)).append("</li>"));
      out.append("</ul>");
    }
  }

  private void writeChecks(JsonNode proof) {
    if (!proof.path("checks").isEmpty()) {
      head(
          "Checks, each with its newest result by then",
          "Check",
          "On",
          "Result",
          "Expected",
          "Found",
          "At");
      for (JsonNode check : proof.path("checks")) {
        row(
            text(check, "name"),
            text(check, "dataset") + (check.has("column") ? "#" + text(check, "column") : ""),
            text(check, "status"),
            text(check, "expected"),
            text(check, "actual"),
            time(check, "at"));
      }
      out.append("</table>");
    }
  }

  private void writeNotices(JsonNode proof) {
    if (!proof.path("notices").isEmpty()) {
      head("Notices that stood then", "On", "Level", "Notice", "By", "Since");
      for (JsonNode notice : proof.path("notices")) {
        row(
            text(notice, "on"),
            text(notice, "level"),
            text(notice, "text"),
            text(notice, "by"),
            time(notice, "from"));
      }
      out.append("</table>");
    }
  }

  private void writePeople(JsonNode proof) {
    if (!proof.path("people").isEmpty()) {
      head("Owners, as known when this was made", "Owner", "Of");
      for (JsonNode person : proof.path("people")) {
        var owned = new ArrayList<String>();
        person.path("owns").forEach(ref -> owned.add(ref.stringValue("")));
        row(text(person, "name"), String.join(", ", owned));
      }
      out.append("</table>");
    }
  }

  private void writeCode(JsonNode proof) {
    if (proof.path("code").isEmpty()) {
      return;
    }
    out.append("<h2>Code</h2>");
    for (Map.Entry<String, JsonNode> code : proof.path("code").properties()) {
      var ran = new ArrayList<String>();
      for (JsonNode run : proof.path("runs")) {
        if (text(run, "code").equals(code.getKey())) {
          ran.add(nameOf.getOrDefault(text(run, "ref"), ""));
        }
      }
      paragraph("quiet", "Run by " + String.join("; ", ran));
      JsonNode shown = code.getValue().path("text");
      out.append("<pre>")
          .append(
              escaped(shown.isString() ? shown.stringValue() : code.getValue().toPrettyString()))
          .append("</pre>");
    }
  }

  private void writeEvents(JsonNode proof) {
    head("Events that say so", "Received", "Type", "Run", "SHA-256");
    for (JsonNode event : proof.path("events")) {
      row(
          time(event, "receivedAt"),
          text(event, "type"),
          nameOf.getOrDefault(text(event, "run"), text(event, "run")),
          text(event, "sha256"));
    }
    out.append("</table>");
    if (proof.has("missing")) {
      paragraph("older", text(proof, "missing") + ".");
    }
  }

  private void head(String title, String... columns) {
    out.append("<h2>").append(escaped(title)).append("</h2><table><thead><tr>");
    for (String column : columns) {
      out.append("<th>").append(escaped(column)).append("</th>");
    }
    out.append("</tr></thead>");
  }

  private void row(String... cells) {
    out.append("<tr>");
    for (String cell : cells) {
      boolean isTime = cell.matches("\\d{4}-\\d\\d-\\d\\d \\d\\d:\\d\\d:\\d\\d");
      out.append(isTime ? "<td class=\"time\">" : "<td>").append(escaped(cell)).append("</td>");
    }
    out.append("</tr>");
  }

  private void list(String title, JsonNode items) {
    if (!items.isEmpty()) {
      out.append("<p>").append(escaped(title)).append(":</p><ul>");
      items.forEach(
          item -> out.append("<li>").append(escaped(item.stringValue(""))).append("</li>"));
      out.append("</ul>");
    }
  }

  private void paragraph(String style, String words) {
    out.append("<p class=\"").append(style).append("\">").append(escaped(words)).append("</p>");
  }

  /** A time in UTC to the second, as people read it. */
  private static String time(JsonNode node, String member) {
    String text = text(node, member);
    return text.length() < SECONDS ? text : text.substring(0, SECONDS).replace('T', ' ');
  }

  private static String text(JsonNode node, String member) {
    return node.path(member).stringValue("");
  }

  private static String escaped(String text) {
    return OutgoingText.of(text)
        .replace("&", "&amp;")
        .replace("<", "&lt;")
        .replace(">", "&gt;")
        .replace("\"", "&quot;");
  }
}
