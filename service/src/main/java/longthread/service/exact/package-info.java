/**
 * Which runs, of which version of their job, made the data that is there; and who used what a run
 * wrote?
 *
 * <p>Start with {@link longthread.service.exact.ExactLineage}. The rules are those of {@code
 * longthread.core.exact}; here the runs are looked up and the answers dressed.
 */
@NullMarked
package longthread.service.exact;

import org.jspecify.annotations.NullMarked;
