/**
 * What do queries see? The graph, the catalog and the names of things in memory, which follow the
 * numbered changes in the database.
 *
 * <p>Start with {@link longthread.service.live.GraphFollower}. {@link
 * longthread.service.live.Catalog} groups names into assets, {@link
 * longthread.service.live.References} finds what a person typed, {@link
 * longthread.service.live.Receipts} waits for events to be visible, and {@link
 * longthread.service.live.Dependents} counts what rests on what, {@link
 * longthread.service.live.Sight} decides what a caller may see of it. One thread changes this, any
 * number read it; no reader waits.
 */
@NullMarked
package longthread.service.live;

import org.jspecify.annotations.NullMarked;
