package longthread.service.impact;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import longthread.core.change.BadDocumentException;
import longthread.core.change.ChangeDocument;
import longthread.core.impact.Impact;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.GraphFollower;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;

/** Judges planned changes for those who keep them. */
@Component
public class ChangeJudge {
  /**
   * What steps do.
   *
   * @param steps with their references in full
   * @param items the worst first
   * @param graph the graph change as of which it was judged
   */
  public record Judgement(
      List<JudgedStep> steps, Map<String, Integer> verdicts, List<JudgedItem> items, long graph) {}

  public record JudgedStep(String change, String of, @Nullable String to) {}

  public record JudgedItem(
      String ref,
      String kind,
      String name,
      String verdict,
      String certainty,
      int hops,
      List<String> owners) {}

  private final ImpactFinder impact;
  private final Catalog catalog;
  private final GraphFollower follower;

  ChangeJudge(ImpactFinder impact, Catalog catalog, GraphFollower follower) {
    this.impact = impact;
    this.catalog = catalog;
    this.follower = follower;
  }

  /** The number of the graph change that a judgement of now would be of. */
  public long graph() {
    return follower.number();
  }

  /** Judges steps together, as of now. */
  public Judgement judge(List<ChangeDocument.Step> steps) {
    long graph = follower.number();
    ImpactFinder.Found found =
        impact.find(
            steps.stream()
                .map(s -> new ImpactFinder.PlannedStep(s.of(), s.change(), s.to()))
                .toList(),
            null,
            ImpactFinder.Filters.NONE,
            "",
            null);
    var items = new ArrayList<JudgedItem>();
    for (Impact.Item item : found.judged()) {
      Asset asset = catalog.asset(item.ref()).orElse(null);
      items.add(
          new JudgedItem(
              item.ref(),
              ImpactFinder.kindOf(asset),
              asset == null ? item.ref() : asset.shown(),
              item.headline().word(),
              item.certainty().word(),
              item.hops(),
              asset == null ? List.of() : asset.ownerNames()));
    }
    return new Judgement(
        found.changes().stream().map(s -> new JudgedStep(s.change(), s.ref(), s.to())).toList(),
        found.summary().verdicts(),
        items,
        graph);
  }

  /** The planned change in a document; refused with each place that is wrong. */
  public static ChangeDocument document(String document) {
    try {
      return ChangeDocument.read(document);
    } catch (BadDocumentException e) {
      throw new ProblemException(
              HttpStatus.BAD_REQUEST,
              "bad-document",
              "The document is no planned change",
              "the document is no planned change by /api/v1/schemas/planned-change.json")
          .with(
              "faults",
              e.faults().stream().map(fault -> Map.of("pointer", "", "detail", fault)).toList());
    }
  }
}
