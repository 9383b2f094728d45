/** Why something is wrong or late, over HTTP. */
@NullMarked
package longthread.service.cause;

import org.jspecify.annotations.NullMarked;
