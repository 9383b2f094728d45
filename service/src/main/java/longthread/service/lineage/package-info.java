/**
 * What feeds what? The neighbourhood of an asset or column as a view, and the thread between two.
 *
 * <p>Start with {@link longthread.service.lineage.LineageViews}. A link gets its evidence in {@link
 * longthread.service.lineage.LinkEvidence}. {@link longthread.service.lineage.Exports} chooses a
 * part for a file. Walking the graph and writing formats is {@code core}'s.
 */
@NullMarked
package longthread.service.lineage;

import org.jspecify.annotations.NullMarked;
