/**
 * How does one job make what it writes? Its inputs and outputs, column by column, and the steps
 * inside it with its SQL.
 *
 * <p>Start with {@link longthread.service.job.JobParts}: what a job reads and writes now. Reading
 * SQL is {@code core}'s.
 */
@NullMarked
package longthread.service.job;

import org.jspecify.annotations.NullMarked;
