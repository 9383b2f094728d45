/**
 * What ran, when, and how did it end? Runs across jobs, one run opened, and which runs wrote an
 * asset's present data.
 *
 * <p>Start with {@link longthread.service.runs.RunReader}.
 */
@NullMarked
package longthread.service.runs;

import org.jspecify.annotations.NullMarked;
