/**
 * Where is an event stored? In a compressed block of the log, durable before its sender gets an
 * answer.
 *
 * <p>Start with {@link longthread.service.log.EventLog}: one thread commits all that waits as one
 * block. {@link longthread.service.log.BlockCodec} is the format of a block. The log knows nothing
 * of who reads it: it calls its listeners after each commit.
 */
@NullMarked
package longthread.service.log;

import org.jspecify.annotations.NullMarked;
