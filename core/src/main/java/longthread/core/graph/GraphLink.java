package longthread.core.graph;

import longthread.core.lineage.Flow;

/** A link of a snapshot, by the ordinals of its ends and of the job or dataset that states it. */
public record GraphLink(int from, int to, Flow flow, boolean masking, int owner) {}
