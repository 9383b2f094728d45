package longthread.service.proof;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.Map;
import java.util.Set;
import longthread.core.json.CanonicalJson;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * A proof as PROV-JSON: runs are activities, what a run wrote of an asset is an entity, owners are
 * agents.
 *
 * @see "W3C, The PROV-JSON Serialization"
 */
final class ProofProv {
  private final ObjectNode document = CanonicalJson.MAPPER.createObjectNode();
  private final Map<String, Integer> numbers = new LinkedHashMap<>();
  private final Set<String> entities = new LinkedHashSet<>();

  private ProofProv() {}

  /**
   * The document.
   *
   * @param base what references are resolved against: an address that ends in a slash
   */
  static ObjectNode of(JsonNode proof, String base) {
    var prov = new ProofProv();
    prov.document.putObject("prefix").put("lt", base);
    String focus = proof.path("about").path("ref").stringValue("");
    String figure = id(focus + " at " + proof.path("at").stringValue(""));
    prov.section("entity")
        .putObject(figure)
        .put("prov:label", proof.path("about").path("name").stringValue(""))
        .put("lt:at", proof.path("at").stringValue(""))
        .put("lt:proof", proof.path("digest").stringValue(""));
    for (JsonNode run : proof.path("runs")) {
      prov.addRun(run);
    }
    for (JsonNode use : proof.path("readings")) {
      prov.addUse(use, figure);
    }
    for (JsonNode person : proof.path("people")) {
      prov.addPerson(person, proof);
    }
    return prov.document;
  }

  private void addRun(JsonNode run) {
    ObjectNode activity =
        section("activity")
            .putObject(id(run.path("ref").stringValue("")))
            .put("prov:label", run.path("name").stringValue(""))
            .put("prov:startTime", run.path("start").stringValue(""))
            .put("lt:state", run.path("state").stringValue(""))
            .put("lt:certainty", run.path("certain").booleanValue() ? "certain" : "possible");
    if (run.path("end").isString()) {
      activity.put("prov:endTime", run.path("end").stringValue());
    }
    if (run.path("version").isNumber()) {
      activity.put("lt:jobVersion", run.path("version").intValue());
    }
    if (run.path("code").isString()) {
      activity.put("lt:code", "sha256:" + run.path("code").stringValue());
    }
  }

  private void addUse(JsonNode use, String figure) {
    String reader = use.path("reader").stringValue("");
    for (JsonNode load : use.path("loads")) {
      String run = load.path("run").stringValue("");
      String asset = load.path("asset").stringValue("");
      String entity = id(asset + " by " + run);
      if (entities.add(entity)) {
        section("entity").putObject(entity).put("prov:label", asset);
        relation("wasGeneratedBy").put("prov:entity", entity).put("prov:activity", id(run));
        asset(asset);
        relation("specializationOf")
            .put("prov:specificEntity", entity)
            .put("prov:generalEntity", id(asset));
      }
      ObjectNode relation =
          reader.isEmpty()
              ? relation("wasDerivedFrom")
                  .put("prov:generatedEntity", figure)
                  .put("prov:usedEntity", entity)
              : relation("used").put("prov:activity", id(reader)).put("prov:entity", entity);
      relation.put("lt:certainty", load.path("certain").booleanValue() ? "certain" : "possible");
    }
    if (use.path("source").booleanValue() && !reader.isEmpty()) {
      String asset = use.path("asset").stringValue("");
      asset(asset);
      relation("used").put("prov:activity", id(reader)).put("prov:entity", id(asset));
    }
  }

  private void asset(String ref) {
    if (entities.add(id(ref))) {
      section("entity").putObject(id(ref)).put("prov:label", ref);
    }
  }

  private void addPerson(JsonNode person, JsonNode proof) {
    String agent = id("owner/" + person.path("name").stringValue(""));
    section("agent").putObject(agent).put("prov:label", person.path("name").stringValue(""));
    var owned = new LinkedHashSet<String>();
    person.path("owns").forEach(ref -> owned.add(ref.stringValue("")));
    for (JsonNode run : proof.path("runs")) {
      if (owned.contains(run.path("job").stringValue(""))) {
        relation("wasAssociatedWith")
            .put("prov:activity", id(run.path("ref").stringValue("")))
            .put("prov:agent", agent);
      }
    }
    for (String ref : owned) {
      if (entities.contains(id(ref))) {
        relation("wasAttributedTo").put("prov:entity", id(ref)).put("prov:agent", agent);
      }
    }
  }

  private ObjectNode section(String name) {
    return document.withObjectProperty(name);
  }

  private ObjectNode relation(String kind) {
    int number = numbers.merge(kind, 1, Integer::sum);
    return section(kind).putObject("_:" + kind + number);
  }

  private static String id(String reference) {
    return "lt:" + URLEncoder.encode(reference, StandardCharsets.UTF_8).replace("+", "%20");
  }
}
