package longthread.service.live;

import java.time.Instant;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import longthread.core.label.ValueKind;
import longthread.service.storage.preview.SampleQueries;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/** What sampled values of columns look like; each replica reads it again every half minute. */
@Component
public class ValueSamples {
  private static final Logger LOG = LoggerFactory.getLogger(ValueSamples.class);

  /**
   * What the values of a column look like.
   *
   * @param kind as {@link ValueKind#word}
   */
  public record ColumnLooks(String path, String kind, int matched, int looked) {
    /** The kind; null for one that this release does not know. */
    public @Nullable ValueKind valueKind() {
      return Arrays.stream(ValueKind.values())
          .filter(one -> one.word().equals(kind))
          .findFirst()
          .orElse(null);
    }
  }

  /**
   * An asset that was sampled.
   *
   * @param fault why it could not be read; null if it was
   */
  public record Sampled(
      String asset, String source, Instant at, List<ColumnLooks> looks, @Nullable String fault) {}

  private final SampleQueries stored;
  private final JsonMapper json;
  private volatile Map<String, Sampled> byAsset = Map.of();

  ValueSamples(SampleQueries stored, JsonMapper json) {
    this.stored = stored;
    this.json = json;
  }

  /** All that was sampled, by the reference of the asset. */
  public Map<String, Sampled> all() {
    return byAsset;
  }

  /** Keeps what was found of an asset. */
  public void keep(Sampled found) {
    stored.put(
        found.asset(),
        found.source(),
        found.at(),
        json.writeValueAsString(found.looks()),
        found.fault());
    var more = new HashMap<>(byAsset);
    more.put(found.asset(), found);
    byAsset = more;
  }

  /** Forgets what came from sources that may not be sampled any more. */
  public void keepOnly(Set<String> sources) {
    boolean isOther = byAsset.values().stream().anyMatch(one -> !sources.contains(one.source()));
    if (isOther) {
      stored.deleteOthers(sources.isEmpty() ? List.of("") : List.copyOf(sources));
      read();
    }
  }

  @Scheduled(fixedDelay = 30_000)
  void read() {
    try {
      var read = new HashMap<String, Sampled>();
      for (SampleQueries.Sample row : stored.all()) {
        List<ColumnLooks> looks =
            json.readValue(row.looks(), new TypeReference<List<ColumnLooks>>() {});
        read.put(row.asset(), new Sampled(row.asset(), row.source(), row.at(), looks, row.fault()));
      }
      byAsset = read;
    } catch (DataAccessException | TransactionException e) {
      LOG.debug("samples are read again later", e);
    }
  }
}
