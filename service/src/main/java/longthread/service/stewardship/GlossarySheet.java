package longthread.service.stewardship;

import java.util.List;
import java.util.Map;
import longthread.core.json.CanonicalJson;
import longthread.service.live.Glossary;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** The glossary as a sheet, one term a row, those above before those below. */
final class GlossarySheet {
  static final List<String> HEADING =
      List.of("id", "name", "definition", "parent", "owners", "synonyms");

  private GlossarySheet() {}

  static List<String> row(Glossary.Term term) {
    return List.of(
        term.id(),
        term.name(),
        term.definition() == null ? "" : term.definition(),
        term.parent() == null ? "" : term.parent(),
        String.join("; ", term.owners()),
        String.join("; ", term.synonyms()));
  }

  /** The changes that make the glossary what a sheet says; terms it does not name stay. */
  static ArrayNode changes(List<Map<String, String>> rows) {
    ArrayNode changes = CanonicalJson.MAPPER.createArrayNode();
    for (Map<String, String> row : rows) {
      ObjectNode change = changes.addObject().put("set", "term");
      String id = row.getOrDefault("id", "").strip();
      if (!id.isEmpty()) {
        change.put("id", id);
      }
      ObjectNode value = change.putObject("value");
      for (String member : List.of("name", "definition", "parent")) {
        String text = row.getOrDefault(member, "").strip();
        if (!text.isEmpty()) {
          value.put(member, text);
        }
      }
      for (String list : List.of("owners", "synonyms")) {
        List<String> values = Edits.split(row.getOrDefault(list, ""));
        if (!values.isEmpty()) {
          values.forEach(value.putArray(list)::add);
        }
      }
    }
    return changes;
  }
}
