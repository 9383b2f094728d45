/**
 * What is different between two states of the catalog?
 *
 * <p>Start with {@link longthread.core.compare.GraphDifference}: two parts of the graph in, what
 * was added, removed and changed out. How schemas differ is {@link
 * longthread.core.compare.SchemaDifference}'s.
 */
@NullMarked
package longthread.core.compare;

import org.jspecify.annotations.NullMarked;
