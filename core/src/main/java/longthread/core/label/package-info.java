/** How far classifications travel along lineage, and where they came from. */
@NullMarked
package longthread.core.label;

import org.jspecify.annotations.NullMarked;
