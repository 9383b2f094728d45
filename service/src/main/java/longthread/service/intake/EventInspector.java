package longthread.service.intake;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.event.EventFacts;
import longthread.core.event.EventWarning;
import longthread.core.event.FacetFact;
import longthread.core.event.UnreadableEventException;
import longthread.core.lineage.ReportedLineage;
import longthread.core.workspace.LogEntry;
import longthread.service.log.BlockCodec;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.log.BlockQueries;
import longthread.service.storage.log.RecentEventQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** One event opened: its bytes, the facts it gave, the assets it touched. */
@Service
class EventInspector {
  /**
   * A facet that the event carried.
   *
   * @param about the dataset, job or run it is about, and for a run's reading or writing in which
   *     role
   * @param current whether its value is the current one
   */
  record ReportedFacet(String about, String role, String key, boolean current) {}

  record ReportedLink(String from, String to, String flow, String how, boolean masking) {}

  /**
   * An event.
   *
   * @param body the bytes as received, as text; null once they are aged
   * @param problem why it was refused; null if it was accepted
   * @param warnings what its emitter should know
   */
  record EventDetail(
      String id,
      Instant receivedAt,
      @Nullable String source,
      int bytes,
      @Nullable String body,
      @Nullable String problem,
      @Nullable String type,
      @Nullable Instant eventTime,
      boolean farFuture,
      @Nullable String producer,
      @Nullable String job,
      @Nullable String run,
      List<String> inputs,
      List<String> outputs,
      List<ReportedLink> links,
      List<ReportedFacet> facets,
      List<String> touched,
      List<String> changed,
      List<String> warnings) {}

  private final BlockQueries blocks;
  private final RecentEventQueries recent;
  private final FacetQueries facets;

  EventInspector(BlockQueries blocks, RecentEventQueries recent, FacetQueries facets) {
    this.blocks = blocks;
    this.recent = recent;
    this.facets = facets;
  }

  /** Opens the event at a position of a block; empty if there is none. */
  @Transactional(readOnly = true)
  Optional<EventDetail> open(long block, int position) {
    return blocks
        .block(block)
        .filter(found -> position >= 0 && position < found.events())
        .map(found -> detail(found, position));
  }

  private EventDetail detail(BlockQueries.Block block, int position) {
    byte[] kept =
        block.body() == null ? new byte[0] : BlockCodec.entries(block.body()).get(position).bytes();
    byte[] bytes = kept.length == 0 ? null : kept; // aged
    List<String> changed = recent.changes(block.id(), position);
    String id = block.id() + "." + position;
    String body = bytes == null ? null : new String(bytes, StandardCharsets.UTF_8);
    int length = bytes == null ? 0 : bytes.length;
    List<EventFacts> facts;
    try {
      facts = bytes == null ? null : LogEntry.read(bytes, block.receivedAt());
    } catch (UnreadableEventException e) {
      return unread(id, block, length, body, e.reason(), changed);
    }
    return facts == null
        ? unread(id, block, length, body, null, changed)
        : read(id, block, length, body, facts, changed);
  }

  private static EventDetail unread(
      String id,
      BlockQueries.Block block,
      int bytes,
      @Nullable String body,
      @Nullable String problem,
      List<String> changed) {
    return new EventDetail(
        id,
        block.receivedAt(),
        block.source(),
        bytes,
        body,
        problem,
        null,
        null,
        false,
        null,
        null,
        null,
        List.of(),
        List.of(),
        List.of(),
        List.of(),
        List.of(),
        changed,
        List.of());
  }

  private EventDetail read(
      String id,
      BlockQueries.Block block,
      int bytes,
      @Nullable String body,
      List<EventFacts> all,
      List<String> changed) {
    EventFacts facts = all.get(0);
    var lineages = new ArrayList<ReportedLineage>();
    var touched = new TreeSet<String>();
    var reported = new ArrayList<FacetFact>();
    for (EventFacts one : all) {
      lineages.add(one.lineage());
      one.declared().values().forEach(declared -> lineages.add(declared.lineage()));
      one.jobs().forEach(job -> touched.add(job.reference()));
      one.datasets().forEach(dataset -> touched.add(dataset.reference()));
      reported.addAll(one.facets());
    }
    ReportedLineage lineage = ReportedLineage.union(lineages);
    return new EventDetail(
        id,
        block.receivedAt(),
        block.source(),
        bytes,
        body,
        null,
        facts.type(),
        facts.at().at(),
        facts.at().farFuture(),
        facts.emitter().producer(),
        facts.job() == null ? null : facts.job().reference(),
        facts.run().map(run -> "run:" + run.run()).orElse(null),
        lineage.inputs().stream().map(d -> d.reference()).toList(),
        lineage.outputs().stream().map(d -> d.reference()).toList(),
        lineage.columns().stream()
            .map(
                link ->
                    new ReportedLink(
                        link.from().reference(),
                        link.to().reference(),
                        link.flow().name(),
                        link.flow().words(),
                        link.masking()))
            .toList(),
        reported(reported),
        List.copyOf(touched),
        changed,
        facts.warnings().stream().map(EventWarning::detail).toList());
  }

  private List<ReportedFacet> reported(List<FacetFact> facts) {
    Set<FacetQueries.Standing> current = current(facts);
    var reported = new ArrayList<ReportedFacet>();
    for (FacetFact fact : facts) {
      if (fact.subject() instanceof FacetFact.OfDataset of) {
        reported.add(ofSubject(of.dataset().reference(), "dataset", fact, current));
      } else if (fact.subject() instanceof FacetFact.OfJob of) {
        reported.add(ofSubject(of.job().reference(), "job", fact, current));
      } else if (fact.subject() instanceof FacetFact.OfRunDataset of) {
        String role = of.output() ? "written" : "read";
        reported.add(new ReportedFacet(of.dataset().reference(), role, fact.key(), true));
      } else if (fact.subject() instanceof FacetFact.OfRun of) {
        reported.add(new ReportedFacet("run:" + of.run(), "run", fact.key(), true));
      }
    }
    return reported;
  }

  private static ReportedFacet ofSubject(
      String ref, String role, FacetFact fact, Set<FacetQueries.Standing> current) {
    boolean isCurrent = current.contains(new FacetQueries.Standing(ref, fact.key(), fact.digest()));
    return new ReportedFacet(ref, role, fact.key(), isCurrent);
  }

  /** The current facets of what some facts are about. */
  private Set<FacetQueries.Standing> current(List<FacetFact> facts) {
    var datasets = new HashSet<String>();
    var jobs = new HashSet<String>();
    for (FacetFact fact : facts) {
      if (fact.subject() instanceof FacetFact.OfDataset of) {
        datasets.add(of.dataset().reference());
      } else if (fact.subject() instanceof FacetFact.OfJob of) {
        jobs.add(of.job().reference());
      }
    }
    return new HashSet<>(
        facets.standing(datasets.toArray(String[]::new), jobs.toArray(String[]::new)));
  }
}
