/** The durable log of events as received: blocks, refusals, the newest events. */
@NullMarked
package longthread.service.storage.log;

import org.jspecify.annotations.NullMarked;
