package longthread.service.proof;

import java.util.LinkedHashSet;
import java.util.Set;
import longthread.core.export.ProvDocument;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * A proof as PROV-JSON: runs are activities, what a run wrote of an asset is an entity, owners are
 * agents.
 *
 * @see "W3C, The PROV-JSON Serialization"
 */
final class ProofProv {
  private final ProvDocument document;
  private final Set<String> entities = new LinkedHashSet<>();

  private ProofProv(String base) {
    document = new ProvDocument(base);
  }

  /**
   * The document.
   *
   * @param base what references are resolved against: an address that ends in a slash
   */
  static ObjectNode of(JsonNode proof, String base) {
    var prov = new ProofProv(base);
    String focus = proof.path("about").path("ref").stringValue("");
    String figure = ProvDocument.id(focus + " at " + proof.path("at").stringValue(""));
    prov.document
        .section("entity")
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
    return prov.document.root();
  }

  private void addRun(JsonNode run) {
    ObjectNode activity =
        document
            .section("activity")
            .putObject(ProvDocument.id(run.path("ref").stringValue("")))
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
      String entity = ProvDocument.id(asset + " by " + run);
      if (entities.add(entity)) {
        document.section("entity").putObject(entity).put("prov:label", asset);
        document
            .relation("wasGeneratedBy")
            .put("prov:entity", entity)
            .put("prov:activity", ProvDocument.id(run));
        asset(asset);
        document
            .relation("specializationOf")
            .put("prov:specificEntity", entity)
            .put("prov:generalEntity", ProvDocument.id(asset));
      }
      ObjectNode relation =
          reader.isEmpty()
              ? document
                  .relation("wasDerivedFrom")
                  .put("prov:generatedEntity", figure)
                  .put("prov:usedEntity", entity)
              : document
                  .relation("used")
                  .put("prov:activity", ProvDocument.id(reader))
                  .put("prov:entity", entity);
      relation.put("lt:certainty", load.path("certain").booleanValue() ? "certain" : "possible");
    }
    if (use.path("source").booleanValue() && !reader.isEmpty()) {
      String asset = use.path("asset").stringValue("");
      asset(asset);
      document
          .relation("used")
          .put("prov:activity", ProvDocument.id(reader))
          .put("prov:entity", ProvDocument.id(asset));
    }
  }

  private void asset(String ref) {
    if (entities.add(ProvDocument.id(ref))) {
      document.section("entity").putObject(ProvDocument.id(ref)).put("prov:label", ref);
    }
  }

  private void addPerson(JsonNode person, JsonNode proof) {
    String agent = ProvDocument.id("owner/" + person.path("name").stringValue(""));
    document
        .section("agent")
        .putObject(agent)
        .put("prov:label", person.path("name").stringValue(""));
    var owned = new LinkedHashSet<String>();
    person.path("owns").forEach(ref -> owned.add(ref.stringValue("")));
    for (JsonNode run : proof.path("runs")) {
      if (owned.contains(run.path("job").stringValue(""))) {
        document
            .relation("wasAssociatedWith")
            .put("prov:activity", ProvDocument.id(run.path("ref").stringValue("")))
            .put("prov:agent", agent);
      }
    }
    for (String ref : owned) {
      if (entities.contains(ProvDocument.id(ref))) {
        document
            .relation("wasAttributedTo")
            .put("prov:entity", ProvDocument.id(ref))
            .put("prov:agent", agent);
      }
    }
  }
}
