/**
 * The catalog in one file, as far as it is needed to judge a change where no service can be
 * reached.
 */
@NullMarked
package longthread.core.snapshot;

import org.jspecify.annotations.NullMarked;
