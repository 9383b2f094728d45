/** Runs, the results of checks, the versions of jobs. */
@NullMarked
package longthread.service.storage.runs;

import org.jspecify.annotations.NullMarked;
