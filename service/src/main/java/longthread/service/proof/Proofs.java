package longthread.service.proof;

import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import longthread.core.asset.Owner;
import longthread.core.asset.Reference;
import longthread.core.json.CanonicalJson;
import longthread.service.exact.ExactLineage;
import longthread.service.exact.ExactLineage.ExactAnswer;
import longthread.service.exact.ExactLineage.ExactRun;
import longthread.service.exact.ExactLineage.ExactUse;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.References;
import longthread.service.notices.Notice;
import longthread.service.notices.NoticeBoard;
import longthread.service.storage.StoredText;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.facts.FacetRole;
import longthread.service.storage.runs.CheckQueries;
import longthread.service.storage.runs.ExactQueries;
import longthread.service.web.ProblemException;
import org.springframework.stereotype.Service;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.MissingNode;
import tools.jackson.databind.node.ObjectNode;

/** Makes proofs, and checks those that were made. */
@Service
class Proofs {
  static final String FORMAT = "longthread-proof/1";

  /**
   * What came of checking a proof.
   *
   * @param valid whether it is as it was signed by this installation, and the log has its events
   * @param signature valid, invalid, or another-installation
   * @param events how many events it lists
   * @param found how many of them the log has with these very bytes
   * @param aged how many of them are known by their digest, the bytes being no longer kept
   * @param missing the places of events that the log does not have
   * @param differences what would be said otherwise today, since more is known of the moment
   * @param problems what is wrong, in words; empty if nothing is
   */
  record Checked(
      boolean valid,
      boolean digestMatches,
      String signature,
      int events,
      int found,
      int aged,
      List<String> missing,
      List<String> differences,
      List<String> problems) {}

  private static final String[] CODE_FACETS = {"sql", "sourceCode", "sourceCodeLocation"};
  private static final int SIGNATURE_MEMBERS = 3; // algorithm, publicKey, value
  private static final int MAX_RUNS = 2_000;
  private static final int MAX_CHECKS = 2_000;

  private final ExactLineage exact;
  private final ExactQueries stored;
  private final FacetQueries facets;
  private final CheckQueries checks;
  private final NoticeBoard notices;
  private final ProofEvents events;
  private final ProofKeys keys;
  private final Catalog catalog;
  private final References references;
  private final TransactionTemplate reading;
  private final Clock clock;

  Proofs(
      ExactLineage exact,
      ExactQueries stored,
      FacetQueries facets,
      CheckQueries checks,
      NoticeBoard notices,
      ProofEvents events,
      ProofKeys keys,
      Catalog catalog,
      References references,
      PlatformTransactionManager transactions,
      Clock clock) {
    this.reading = new TransactionTemplate(transactions);
    this.reading.setReadOnly(true);
    this.exact = exact;
    this.stored = stored;
    this.facets = facets;
    this.checks = checks;
    this.notices = notices;
    this.events = events;
    this.keys = keys;
    this.catalog = catalog;
    this.references = references;
    this.clock = clock;
  }

  /**
   * Makes the proof of what was behind an asset or column at a moment.
   *
   * @param by who asks for it
   */
  ObjectNode of(References.Named named, Instant at, String by) {
    keys.publicKey(); // makes the key, at the first proof, which reading must not
    return Objects.requireNonNull(reading.execute(status -> made(named, at, by)));
  }

  private ObjectNode made(References.Named named, Instant at, String by) {
    ExactAnswer answer = answer(named, at);
    ObjectNode proof = CanonicalJson.MAPPER.createObjectNode();
    proof.put("format", FORMAT);
    Asset asset = named.asset();
    proof
        .putObject("about")
        .put("ref", named.ref())
        .put("name", asset.shown() + (named.column() == null ? "" : "#" + named.column()))
        .put("kind", asset.kind().word())
        .put("system", asset.system());
    proof.put("at", at.toString());
    proof.put("madeAt", clock.instant().toString()).put("madeBy", by);
    proof.put("summary", answer.summary());
    proof.set("outdated", tree(answer.outdated()));
    proof.put("complete", !answer.truncated());
    addRuns(proof, answer);
    proof.set("readings", tree(answer.uses()));
    proof.set("sources", tree(answer.sources()));
    Set<String> assets = assets(answer, asset);
    addChecks(proof, assets, at);
    addNotices(proof, assets, at);
    addPeople(proof, assets, answer);
    ProofEvents.Found found =
        events.of(answer.runs().stream().map(run -> uuid(run.ref())).toList());
    proof.set("events", tree(found.events()));
    if (found.agedBlocks() > 0) {
      proof.put(
          "missing",
          found.agedBlocks()
              + " blocks of the log with events of these runs were dropped by retention; what they"
              + " said is kept, their bytes are not");
    }
    return signed(proof);
  }

  private ExactAnswer answer(References.Named named, Instant at) {
    if (Reference.isJob(named.asset().ref())) {
      throw ProblemException.badRequest(
          "bad-reference",
          named.ref() + " is a job; a proof is of what was in a dataset, report or column");
    }
    return exact.behind(
        new ExactLineage.Wanted(
            named.asset(), named.column(), at, true, Integer.MAX_VALUE, MAX_RUNS));
  }

  private static UUID uuid(String run) {
    return UUID.fromString(run.substring(Reference.RUN_PREFIX.length()));
  }

  private static JsonNode tree(Object value) {
    return CanonicalJson.MAPPER.valueToTree(value);
  }

  private void addRuns(ObjectNode proof, ExactAnswer answer) {
    Map<UUID, ObjectNode> codes = codes(answer.runs().stream().map(r -> uuid(r.ref())).toList());
    ObjectNode code = CanonicalJson.MAPPER.createObjectNode();
    ArrayNode runs = proof.putArray("runs");
    for (ExactRun run : answer.runs()) {
      ObjectNode node = (ObjectNode) tree(run);
      ObjectNode ran = codes.get(uuid(run.ref()));
      if (ran != null) {
        String sum = CanonicalJson.digest(CanonicalJson.text(ran));
        code.set(sum, ran);
        node.put("code", sum);
      }
      runs.add(node);
    }
    proof.set("code", code);
  }

  /** The code that runs reported: its text, or where it lies; of those that reported either. */
  private Map<UUID, ObjectNode> codes(Collection<UUID> runs) {
    List<ExactQueries.RunValue> values =
        stored.values(runs.toArray(UUID[]::new), CODE_FACETS).stream()
            .filter(value -> value.role() == FacetRole.CODE.code())
            .toList();
    var bodies = new LinkedHashMap<String, JsonNode>();
    facets
        .bodies(
            values.stream()
                .map(ExactQueries.RunValue::digest)
                .distinct()
                .map(HexFormat.of()::parseHex)
                .toArray(byte[][]::new))
        .forEach(body -> bodies.put(body.digest(), StoredText.json(body.body())));
    var codes = new LinkedHashMap<UUID, ObjectNode>();
    for (ExactQueries.RunValue value : values) {
      JsonNode body = bodies.getOrDefault(value.digest(), MissingNode.getInstance());
      ObjectNode code =
          codes.computeIfAbsent(value.run(), k -> CanonicalJson.MAPPER.createObjectNode());
      switch (value.key()) {
        case "sql" -> code.put("language", "sql").set("text", body.path("query"));
        case "sourceCode" -> {
          code.set("language", body.path("language"));
          code.set("text", body.path("sourceCode"));
        }
        default -> code.set("location", body);
      }
    }
    return codes;
  }

  private static Set<String> assets(ExactAnswer answer, Asset asset) {
    var assets = new TreeSet<>(List.of(asset.ref()));
    for (ExactUse use : answer.uses()) {
      assets.add(use.asset());
      assets.addAll(use.through());
      use.loads().forEach(load -> assets.add(load.asset()));
    }
    return assets;
  }

  /** Of each check on the assets, the result that was the newest at the moment. */
  private void addChecks(ObjectNode proof, Set<String> assets, Instant at) {
    var newest = new LinkedHashMap<List<String>, CheckQueries.Stored>();
    String[] parts = parts(assets);
    for (CheckQueries.Stored check : checks.onDatasets(parts, at, MAX_CHECKS)) {
      newest.putIfAbsent(
          List.of(String.valueOf(check.dataset()), check.name(), check.column()), check);
    }
    ArrayNode list = proof.putArray("checks");
    for (CheckQueries.Stored check : newest.values()) {
      ObjectNode node =
          list.addObject()
              .put("name", check.name())
              .put("dataset", check.dataset())
              .put("status", check.status())
              .put("at", check.at().toString())
              .put("run", Reference.RUN_PREFIX + check.run());
      if (!check.column().isEmpty()) {
        node.put("column", check.column());
      }
      if (check.expected() != null) {
        node.put("expected", check.expected());
      }
      if (check.actual() != null) {
        node.put("actual", check.actual());
      }
    }
  }

  private String[] parts(Collection<String> assets) {
    return assets.stream()
        .flatMap(ref -> catalog.known(ref).map(Asset::parts).orElse(List.of(ref)).stream())
        .distinct()
        .toArray(String[]::new);
  }

  /** The notices that stood on any of the assets at the moment. */
  private void addNotices(ObjectNode proof, Set<String> assets, Instant at) {
    ArrayNode list = proof.putArray("notices");
    for (Notice notice : notices.all()) {
      String on = Reference.assetOf(notice.ref());
      boolean stood =
          !notice.from().isAfter(at)
              && (notice.until() == null || notice.until().isAfter(at))
              && (notice.liftedAt() == null || notice.liftedAt().isAfter(at));
      if (stood && assets.contains(catalog.leadOf(on))) {
        ObjectNode node =
            list.addObject()
                .put("id", notice.id())
                .put("on", notice.ref())
                .put("level", notice.level())
                .put("text", notice.text())
                .put("by", notice.by())
                .put("from", notice.from().toString());
        if (notice.liftedAt() != null) {
          node.put("liftedAt", notice.liftedAt().toString()).put("liftedBy", notice.liftedBy());
        }
      }
    }
  }

  /** Who owns the assets and jobs; as is known today. */
  private void addPeople(ObjectNode proof, Set<String> assets, ExactAnswer answer) {
    var owned = new TreeMap<String, Set<String>>();
    var all = new LinkedHashSet<>(assets);
    answer.runs().forEach(run -> all.add(run.job()));
    for (String ref : all) {
      for (Owner owner : catalog.known(ref).map(a -> a.card().owners()).orElse(List.of())) {
        owned.computeIfAbsent(owner.name(), k -> new TreeSet<>()).add(ref);
      }
    }
    ArrayNode people = proof.putArray("people");
    owned.forEach((name, refs) -> people.addObject().put("name", name).set("owns", tree(refs)));
  }

  private ObjectNode signed(ObjectNode proof) {
    String digest = digest(proof);
    proof.put("digest", "sha256:" + digest);
    proof
        .putObject("signature")
        .put("algorithm", ProofKeys.ALGORITHM)
        .put("publicKey", keys.publicKey())
        .put("value", keys.sign(digest));
    return proof;
  }

  /** The SHA-256 of a proof without its digest and signature, with sorted members. */
  private static String digest(ObjectNode proof) {
    ObjectNode plain = proof.deepCopy();
    plain.remove(List.of("digest", "signature"));
    return CanonicalJson.digest(CanonicalJson.text(plain).getBytes(StandardCharsets.UTF_8));
  }

  /** Checks a proof: whether it was altered, who signed it, and whether the log has its events. */
  Checked check(ObjectNode proof) {
    keys.publicKey();
    return Objects.requireNonNull(reading.execute(status -> checked(proof)));
  }

  private Checked checked(ObjectNode proof) {
    if (!FORMAT.equals(proof.path("format").stringValue(""))) {
      throw ProblemException.badRequest(
          "bad-proof",
          "the document has no format '" + FORMAT + "'; send a proof as GET /api/v1/proof made it");
    }
    var problems = new ArrayList<String>();
    String digest = digest(proof);
    boolean matches = proof.path("digest").stringValue("").equals("sha256:" + digest);
    if (!matches) {
      problems.add("the document was altered after it was made: its digest differs");
    }
    String signature = signature(proof, digest);
    if (signature.equals("invalid")) {
      problems.add("the signature does not belong to this document");
    } else if (signature.equals("another-installation")) {
      problems.add(
          "it was signed by another installation, whose key is not known here; check it there");
    }
    var sums = new LinkedHashMap<String, String>();
    for (JsonNode event : proof.path("events")) {
      sums.put(event.path("id").stringValue(""), event.path("sha256").stringValue(""));
    }
    Map<String, ProofEvents.Standing> standing = events.standing(sums);
    List<String> missing =
        standing.entrySet().stream()
            .filter(e -> e.getValue() == ProofEvents.Standing.MISSING)
            .map(Map.Entry::getKey)
            .toList();
    if (!missing.isEmpty()) {
      problems.add(missing.size() + " events that it lists are not in the log");
    }
    return new Checked(
        problems.isEmpty(),
        matches,
        signature,
        sums.size(),
        count(standing, ProofEvents.Standing.THERE),
        count(standing, ProofEvents.Standing.AGED),
        missing,
        signature.equals("valid") ? differences(proof) : List.of(),
        problems);
  }

  private static int count(
      Map<String, ProofEvents.Standing> standing, ProofEvents.Standing wanted) {
    return (int) standing.values().stream().filter(s -> s == wanted).count();
  }

  private String signature(ObjectNode proof, String digest) {
    JsonNode signature = proof.path("signature");
    boolean isOurForm =
        ProofKeys.ALGORITHM.equals(signature.path("algorithm").stringValue(""))
            && signature.size() == SIGNATURE_MEMBERS;
    if (!isOurForm) {
      return "invalid"; // what is not signed itself must be as it is made here, and no more
    }
    String key = signature.path("publicKey").stringValue("");
    boolean signed = ProofKeys.isSigned(digest, signature.path("value").stringValue(""), key);
    return !signed ? "invalid" : key.equals(keys.publicKey()) ? "valid" : "another-installation";
  }

  /** What would be said otherwise now: late events may have come since. */
  private List<String> differences(ObjectNode proof) {
    References.Named named;
    try {
      named = references.resolve(proof.path("about").path("ref").stringValue(""));
    } catch (ProblemException e) {
      return List.of("what it is about is no longer in the catalog");
    }
    ExactAnswer now = answer(named, Instant.parse(proof.path("at").stringValue("")));
    var then = new LinkedHashMap<String, Boolean>();
    for (JsonNode run : proof.path("runs")) {
      then.put(run.path("ref").stringValue(""), run.path("certain").booleanValue());
    }
    var differences = new ArrayList<String>();
    for (ExactRun run : now.runs()) {
      Boolean certain = then.remove(run.ref());
      if (certain == null) {
        differences.add(
            run.name() + " of " + run.start() + " is behind it too, by what is known now");
      } else if (certain != run.certain()) {
        differences.add(
            run.name()
                + " of "
                + run.start()
                + (run.certain() ? " is certain now" : " is only possible now"));
      }
    }
    then.keySet().forEach(run -> differences.add(run + " is not behind it, by what is known now"));
    return differences;
  }
}
