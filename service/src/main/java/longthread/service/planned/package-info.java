/**
 * Changes that are planned and kept: what they do, who has to know, and what became of them.
 *
 * <p>Start with {@link longthread.service.planned.PlannedBoard}. Judging is {@code impact}'s; an
 * open change is judged again whenever the graph has changed.
 */
@NullMarked
package longthread.service.planned;

import org.jspecify.annotations.NullMarked;
