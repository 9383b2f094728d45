package longthread.service.catalog;

import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.stream.Collectors;
import longthread.core.asset.BadNameException;
import longthread.core.asset.Card;
import longthread.core.asset.FoldingRules;
import longthread.core.asset.Reference;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.storage.graph.AssetLinkQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** The parts that fold into one asset, and what the rules make of a name. */
@Service
class AssetParts {
  /**
   * One name that belongs to an asset.
   *
   * @param part what distinguishes it from the others, where it folds: its partition, date or
   *     number
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
  record Parts(List<String> rules, List<LocalDate> missingDays, List<AssetPart> all) {}

  /** What the folding rules make of a name. */
  record Fold(
      String name, boolean folds, String whole, @Nullable String part, @Nullable String rule) {}

  private final Catalog catalog;
  private final AssetLinkQueries links;

  AssetParts(Catalog catalog, AssetLinkQueries links) {
    this.catalog = catalog;
    this.links = links;
  }

  /** What the folding rules make of a name, whether or not the catalog has it. */
  Fold fold(String name) {
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

  /** All parts of an asset. */
  @Transactional(readOnly = true)
  public Parts of(Asset asset) {
    List<AssetPart> all = partsOf(asset);
    List<LocalDate> days = all.stream().map(AssetPart::day).filter(Objects::nonNull).toList();
    List<String> rules =
        asset.parts().stream()
            .flatMap(part -> catalog.foldedPart(part).stream())
            .map(FoldingRules.Folded::rule)
            .distinct()
            .toList();
    return new Parts(rules, FoldingRules.missingDays(days), all);
  }

  private List<AssetPart> partsOf(Asset asset) {
    String[] refs = asset.parts().toArray(String[]::new);
    Map<String, Instant> written = byRef(links.lastWritten(refs));
    Map<String, Instant> read = byRef(links.lastRead(refs));
    var by = new HashMap<String, List<String>>();
    for (AssetLinkQueries.Writer row : links.writers(refs)) {
      by.computeIfAbsent(row.dataset(), k -> new ArrayList<>()).add(row.job());
    }
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

  private static Map<String, Instant> byRef(List<AssetLinkQueries.LastSeen> rows) {
    return rows.stream()
        .collect(Collectors.toMap(AssetLinkQueries.LastSeen::ref, AssetLinkQueries.LastSeen::at));
  }
}
