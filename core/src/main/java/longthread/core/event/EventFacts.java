package longthread.core.event;

import java.util.List;
import java.util.Optional;
import java.util.SortedSet;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import org.jspecify.annotations.Nullable;

/**
 * All that one event says.
 *
 * @param job the job of a run or job event; null for a dataset event
 * @param run what it says about the run; empty unless it is a run event
 * @param shape the lineage it states
 * @param shapeDigest SHA-256 of the shape's text, in hex
 * @param datasets every dataset it mentions
 * @param jobs every job it mentions, parents among them
 */
public record EventFacts(
    EventTime at,
    String producer,
    @Nullable JobName job,
    @Nullable DatasetName dataset,
    Optional<RunFact> run,
    Shape shape,
    String shapeText,
    String shapeDigest,
    List<FacetFact> facets,
    SortedSet<DatasetName> datasets,
    SortedSet<JobName> jobs) {}
