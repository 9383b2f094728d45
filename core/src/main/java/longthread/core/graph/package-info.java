/**
 * What feeds what, near or far, and by which thread? The lineage graph in memory.
 *
 * <p>Start with {@link longthread.core.graph.GraphStore}, which takes changes and hands out
 * immutable {@link longthread.core.graph.LineageGraph} snapshots; {@link
 * longthread.core.graph.Walk} and {@link longthread.core.graph.ThreadFinder} answer questions on
 * one.
 *
 * <p>Nodes are columns, and for every asset one <em>rows</em> node, which also stands for the asset
 * as a whole: every pair of assets that feed each other has a link between their rows nodes. Cycles
 * are ordinary input. Distance counts links.
 */
@NullMarked
package longthread.core.graph;

import org.jspecify.annotations.NullMarked;
