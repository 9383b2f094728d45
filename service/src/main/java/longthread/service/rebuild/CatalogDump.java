package longthread.service.rebuild;

import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import longthread.service.storage.StoredText;
import longthread.service.storage.catalog.CardQueries;
import longthread.service.storage.rebuild.CatalogQuery;
import longthread.service.storage.rebuild.CatalogSchemas;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/**
 * The whole catalog as text that is equal for equal catalogs, whatever order their events came in:
 * one fact a line, by reference, in order. Received times, log positions, internal ids and counters
 * are left out.
 */
@Component
public class CatalogDump {
  private static final int SHOWN = 20;

  private final CatalogSchemas schemas;
  private final CardQueries cards;

  CatalogDump(CatalogSchemas schemas, CardQueries cards) {
    this.schemas = schemas;
    this.cards = cards;
  }

  /** The dump; takes time and space linear in the catalog. */
  @Transactional // cursors need a transaction
  public String text() {
    var lines = new ArrayList<String>();
    for (CatalogQuery query : CatalogQuery.values()) {
      if (query != CatalogQuery.CARDS) {
        lines.addAll(schemas.rows(CatalogSchemas.LIVE, query));
      }
    }
    cards.forEach(card -> lines.add("card\t" + StoredText.text(card.body())));
    Collections.sort(lines);
    return String.join("\n", lines);
  }

  /**
   * The lines that only one of two catalogs has, the first of them, marked with {@code -} or {@code
   * +}; empty if the two are equal. The database counts and sums the hashes, so it takes next to no
   * memory while they are equal. Runs in the caller's transaction.
   */
  static List<String> differences(CatalogSchemas schemas, String one, String other) {
    var differences = new ArrayList<String>();
    for (CatalogQuery query : CatalogQuery.values()) {
      if (!schemas.sum(one, query).equals(schemas.sum(other, query))) {
        Set<String> first = new TreeSet<>(schemas.rows(one, query));
        Set<String> second = new TreeSet<>(schemas.rows(other, query));
        addMissing("- ", first, second, differences);
        addMissing("+ ", second, first, differences);
      }
    }
    return differences;
  }

  private static void addMissing(
      String mark, Set<String> lines, Set<String> others, List<String> into) {
    lines.stream()
        .filter(line -> !others.contains(line))
        .limit(SHOWN)
        .forEach(line -> into.add(mark + line));
  }
}
