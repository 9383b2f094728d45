/**
 * How complete is the lineage, and what is missing? Counted per system and workspace, and as a list
 * to work off.
 *
 * <p>Start with {@link longthread.service.coverage.Coverage} and {@link
 * longthread.service.coverage.BlindSpots}. Both read the graph in memory; their answers are kept
 * until it changes.
 */
@NullMarked
package longthread.service.coverage;

import org.jspecify.annotations.NullMarked;
