package longthread.service.catalog;

import java.sql.Timestamp;
import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import longthread.core.asset.BadNameException;
import longthread.core.asset.Card;
import longthread.core.asset.FoldingRules;
import longthread.core.asset.Reference;
import longthread.service.web.Pages;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** The parts that fold into one asset, and what the rules make of a name. */
@RestController
class PartsController {
  /**
   * One name that belongs to an asset.
   *
   * @param part what tells it from the others, where it folds: its partition, date or number
   * @param writtenAt when a link into it was seen last
   */
  record AssetPart(
      String ref,
      @Nullable String part,
      @Nullable LocalDate day,
      boolean described,
      boolean retired,
      @Nullable Instant writtenAt,
      List<String> writtenBy,
      @Nullable Instant readAt) {}

  /**
   * The parts of an asset.
   *
   * @param missingDays the days without a part, where there is one for nearly every day
   */
  record Parts(
      String ref,
      List<String> rules,
      int total,
      List<LocalDate> missingDays,
      List<AssetPart> parts,
      @Nullable String cursor) {}

  /** What the folding rules make of a name. */
  record Fold(
      String name, boolean folds, String whole, @Nullable String part, @Nullable String rule) {}

  private final References references;
  private final Catalog catalog;
  private final Pages pages;
  private final JdbcTemplate jdbc;

  PartsController(References references, Catalog catalog, Pages pages, JdbcTemplate jdbc) {
    this.references = references;
    this.catalog = catalog;
    this.pages = pages;
    this.jdbc = jdbc;
  }

  /** Tries the folding rules on a name, whether or not the catalog has it. */
  @GetMapping("/api/v1/fold")
  Fold fold(@RequestParam String name) {
    Reference reference;
    try {
      reference = Reference.parse(name);
    } catch (BadNameException e) {
      throw ProblemException.badRequest(
          "bad-reference", e.getMessage() + "; write the whole name, as namespace/name");
    }
    if (!(reference instanceof Reference.OfDataset dataset) || dataset.column() != null) {
      throw ProblemException.badRequest(
          "bad-reference", "'" + name + "' is not the name of a dataset; only those fold");
    }
    Optional<FoldingRules.Folded> folded = catalog.folding().fold(dataset.dataset());
    return folded
        .map(f -> new Fold(name, true, f.whole().reference(), f.part(), f.rule()))
        .orElseGet(() -> new Fold(name, false, name, null, null));
  }

  @GetMapping("/api/v1/parts")
  Parts parts(
      @RequestParam String ref,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor) {
    Asset asset = references.resolve(ref).asset();
    List<AssetPart> all = partsOf(asset);
    var days = all.stream().map(AssetPart::day).filter(day -> day != null).toList();
    List<String> rules =
        asset.parts().stream()
            .flatMap(part -> catalog.foldedPart(part).stream())
            .map(FoldingRules.Folded::rule)
            .distinct()
            .toList();
    int most = Pages.limit(limit);
    Pages.Page<AssetPart> page = cursor != null ? pages.next(cursor, most) : pages.first(all, most);
    return new Parts(
        asset.ref(),
        rules,
        all.size(),
        FoldingRules.missingDays(days),
        page.items(),
        page.cursor());
  }

  private List<AssetPart> partsOf(Asset asset) {
    String[] refs = asset.parts().toArray(String[]::new);
    Map<String, Instant> written = lastSeen("to_dataset", refs);
    Map<String, Instant> read = lastSeen("from_dataset", refs);
    var by = new HashMap<String, List<String>>();
    jdbc.query(
        "select distinct d.ref, j.ref from link_row l join dataset d on d.id = l.to_dataset"
            + " join job j on l.owner_kind = 2 and j.id = l.owner_id where d.ref = any(?)",
        row -> {
          by.computeIfAbsent(row.getString(1), k -> new ArrayList<>()).add(row.getString(2));
        },
        (Object) refs);
    var parts = new ArrayList<AssetPart>();
    for (String ref : asset.parts()) {
      Card card = catalog.card(ref).orElse(null);
      if (card == null) {
        continue; // the whole, which no event named itself
      }
      String part = catalog.foldedPart(ref).map(FoldingRules.Folded::part).orElse(null);
      parts.add(
          new AssetPart(
              ref,
              part,
              part == null ? null : FoldingRules.dayOf(part).orElse(null),
              card.described(),
              card.retired(),
              written.get(ref),
              by.getOrDefault(ref, List.of()),
              read.get(ref)));
    }
    return parts;
  }

  private Map<String, Instant> lastSeen(String end, String[] refs) {
    var seen = new HashMap<String, Instant>();
    jdbc.query(
        "select d.ref, max(l.last_seen) from link l join dataset d on d.id = l."
            + end
            + " where d.ref = any(?) group by 1",
        row -> {
          Timestamp at = row.getTimestamp(2);
          seen.put(row.getString(1), at.toInstant());
        },
        (Object) refs);
    return seen;
  }
}
