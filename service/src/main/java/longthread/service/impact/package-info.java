/**
 * What happens if this is changed? Everything downstream with its verdict, thread and owners, and
 * what is untouched.
 *
 * <p>Start with {@link longthread.service.impact.ImpactFinder}. Verdicts are decided in {@code
 * core}'s impact package; here they get names, owners and links.
 */
@NullMarked
package longthread.service.impact;

import org.jspecify.annotations.NullMarked;
