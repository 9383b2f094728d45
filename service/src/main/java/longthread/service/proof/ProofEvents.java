package longthread.service.proof;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import longthread.core.json.CanonicalJson;
import longthread.service.log.BlockCodec;
import longthread.service.storage.log.BlockQueries;
import longthread.service.storage.runs.ExactQueries;
import org.springframework.stereotype.Component;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;

/** Finds the events of runs in the log, and whether the log still has them. */
@Component
class ProofEvents {
  /**
   * An event of a run.
   *
   * @param id its place in the log, as {@code GET /api/v1/intake/event} takes it
   * @param sha256 of its bytes as received, in hexadecimal
   */
  record Used(String id, String sha256, Instant receivedAt, String run, String type, String time) {}

  /** Events, and how many blocks of the log that hold some have lost their bytes to retention. */
  record Found(List<Used> events, int agedBlocks) {}

  /** Whether an event is in the log: with its bytes, known by its digest alone, or not at all. */
  enum Standing {
    THERE,
    AGED,
    MISSING
  }

  private static final int BATCH = 50;
  private static final String RUN_ID = "\"runId\"";
  private static final int UUID_LENGTH = 36;

  private final BlockQueries blocks;
  private final ExactQueries runs;

  ProofEvents(BlockQueries blocks, ExactQueries runs) {
    this.blocks = blocks;
    this.runs = runs;
  }

  /** The events that reported anything of runs, in the order of the log. */
  Found of(Collection<UUID> ids) {
    var wanted = new HashSet<String>();
    ids.forEach(id -> wanted.add(id.toString()));
    List<Long> holding = runs.blocksOf(ids.toArray(UUID[]::new));
    var found = new ArrayList<Used>();
    int read = 0;
    for (int at = 0; at < holding.size(); at += BATCH) {
      List<Long> some = holding.subList(at, Math.min(at + BATCH, holding.size()));
      for (BlockQueries.Body block : blocks.bodies(some.toArray(Long[]::new))) {
        read++;
        addEvents(block, wanted, found);
      }
    }
    return new Found(found, holding.size() - read);
  }

  private static void addEvents(BlockQueries.Body block, Set<String> wanted, List<Used> found) {
    int position = 0;
    for (BlockCodec.Entry entry : BlockCodec.entries(block.body())) {
      if (!entry.refused() && mayName(entry.bytes(), wanted)) {
        JsonNode event = json(entry.bytes());
        String run = event.path("run").path("runId").stringValue("").toLowerCase(Locale.ROOT);
        if (wanted.contains(run)) {
          found.add(
              new Used(
                  block.id() + "." + position,
                  CanonicalJson.digest(entry.bytes()),
                  block.receivedAt(),
                  "run:" + run,
                  event.path("eventType").stringValue("OTHER"),
                  event.path("eventTime").stringValue("")));
        }
      }
      position++;
    }
  }

  /**
   * Whether an event may name one of these runs, found out without parsing it: of a block of a
   * thousand events only a few are of them. Takes time linear in the bytes.
   */
  static boolean mayName(byte[] event, Set<String> runs) {
    String text = new String(event, StandardCharsets.ISO_8859_1);
    if (text.contains("\\u00")) {
      return true; // an id, or the member's name, may be spelled with escapes
    }
    for (int at = text.indexOf(RUN_ID); at >= 0; at = text.indexOf(RUN_ID, at + 1)) {
      int quote = text.indexOf('"', at + RUN_ID.length());
      int end = quote + 1 + UUID_LENGTH;
      if (quote >= 0
          && end <= text.length()
          && runs.contains(text.substring(quote + 1, end).toLowerCase(Locale.ROOT))) {
        return true;
      }
    }
    return false;
  }

  private static JsonNode json(byte[] bytes) {
    try {
      return CanonicalJson.LAST_WINS.readTree(bytes);
    } catch (JacksonException e) {
      return tools.jackson.databind.node.MissingNode.getInstance(); // it names no run then
    }
  }

  /**
   * How events stand in the log: the bytes at their places are hashed anew.
   *
   * @param sums digests by the places of the events
   */
  Map<String, Standing> standing(Map<String, String> sums) {
    var standing = new LinkedHashMap<String, Standing>();
    var byBlock = new HashMap<Long, List<String>>();
    for (String id : sums.keySet()) {
      try {
        long block = Long.parseLong(id.substring(0, Math.max(0, id.indexOf('.'))));
        byBlock.computeIfAbsent(block, k -> new ArrayList<>()).add(id);
      } catch (NumberFormatException e) {
        standing.put(id, Standing.MISSING); // no place of the log at all
      }
    }
    List<Long> all = List.copyOf(byBlock.keySet());
    for (int at = 0; at < all.size(); at += BATCH) {
      List<Long> some = all.subList(at, Math.min(at + BATCH, all.size()));
      for (BlockQueries.Body block : blocks.bodies(some.toArray(Long[]::new))) {
        List<BlockCodec.Entry> entries = BlockCodec.entries(block.body());
        for (String id : byBlock.getOrDefault(block.id(), List.of())) {
          int position = position(id);
          if (position >= 0
              && position < entries.size()
              && CanonicalJson.digest(entries.get(position).bytes()).equals(sums.get(id))) {
            standing.put(id, Standing.THERE);
          }
        }
      }
    }
    var known = new HashSet<String>();
    List<String> open =
        sums.values().stream().filter(sum -> sum.matches("[0-9a-f]{64}")).distinct().toList();
    blocks
        .seen(open.stream().map(java.util.HexFormat.of()::parseHex).toArray(byte[][]::new))
        .forEach(seen -> known.add(seen.digest()));
    sums.forEach(
        (id, sum) ->
            standing.putIfAbsent(id, known.contains(sum) ? Standing.AGED : Standing.MISSING));
    return standing;
  }

  private static int position(String id) {
    try {
      return Integer.parseInt(id.substring(id.indexOf('.') + 1));
    } catch (NumberFormatException e) {
      return -1;
    }
  }
}
