/**
 * What needs me this morning? The causes of everything that is wrong, ranked by what rests on them,
 * the reports that are late, what became unknown, and how the intake does.
 *
 * <p>Start with {@link longthread.service.today.Today}.
 */
@NullMarked
package longthread.service.today;

import org.jspecify.annotations.NullMarked;
