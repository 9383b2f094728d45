/**
 * How far what the catalog says can be relied on: whether those who report still do.
 *
 * <p>Start with {@link longthread.core.trust.Rhythm}: the times at which something was heard in,
 * how long it usually rests out.
 */
@NullMarked
package longthread.core.trust;

import org.jspecify.annotations.NullMarked;
