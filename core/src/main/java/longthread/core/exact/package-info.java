/**
 * Which runs made the data that is in a dataset, and which runs used what a run wrote.
 *
 * <p>Start with {@link longthread.core.exact.RunLineage}. {@link longthread.core.exact.Contents}
 * answers for one dataset and one reading of it; a lineage repeats that run by run.
 *
 * <p>All is worked out from what runs reported: when they began and ended, what they read and
 * wrote, which part of it, and whether they replaced or added. A write takes effect at some moment
 * between the start and the end of its run, and a read sees each part of a dataset at some moment
 * of its run. Where that leaves more than one possible answer, each is given as possible, with the
 * reason; none is chosen.
 */
@NullMarked
package longthread.core.exact;

import org.jspecify.annotations.NullMarked;
