/**
 * How far classifications travel along lineage, where they came from, where they may not be, and
 * what values look as if they should have one.
 *
 * <p>Start with {@link longthread.core.label.LabelSpread}; {@link longthread.core.label.LeakSearch}
 * holds policies against it.
 */
@NullMarked
package longthread.core.label;

import org.jspecify.annotations.NullMarked;
