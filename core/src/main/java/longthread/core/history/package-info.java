/**
 * Which versions did a job have, and from when to when did each of its links hold?
 *
 * <p>Start with {@link longthread.core.history.JobHistory}: the runs of one job in, its versions
 * and its links with their validity out. Everything is in event time; the order in which runs
 * became known plays no part.
 */
@NullMarked
package longthread.core.history;

import org.jspecify.annotations.NullMarked;
