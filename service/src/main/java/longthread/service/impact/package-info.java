/** What a change breaks, over HTTP. */
@NullMarked
package longthread.service.impact;

import org.jspecify.annotations.NullMarked;
