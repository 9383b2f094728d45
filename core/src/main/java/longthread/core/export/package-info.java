/**
 * A part of the graph in formats that other programs read.
 *
 * <p>Start with {@link longthread.core.export.ExportedGraph}: named nodes and links, as they were
 * chosen. {@link longthread.core.export.GraphMl}, {@link longthread.core.export.Dot}, {@link
 * longthread.core.export.ProvJson} and {@link longthread.core.export.LineageEvents} write it.
 *
 * <p>Nothing here looks anything up: what is to be hidden from a reader is hidden before.
 */
@NullMarked
package longthread.core.export;

import org.jspecify.annotations.NullMarked;
