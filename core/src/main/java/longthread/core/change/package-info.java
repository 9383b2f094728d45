/**
 * What is planned, written down: a title, a reason, and steps.
 *
 * <p>Start with {@link longthread.core.change.ChangeDocument}. What the steps do downstream is
 * {@code longthread.core.impact}'s.
 */
@NullMarked
package longthread.core.change;

import org.jspecify.annotations.NullMarked;
