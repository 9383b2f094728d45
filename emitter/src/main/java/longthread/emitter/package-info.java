/**
 * How does a Java program report what it reads and writes, without ever failing for it?
 *
 * <p>Start with {@link longthread.emitter.Emitter}. Events go out in batches from a thread of their
 * own; what cannot be sent is kept in a spool and sent later, by this program or the next. Nothing
 * here throws into the pipeline but for wrong arguments.
 *
 * <p>Events are those of OpenLineage spec 2-0-2.
 */
@NullMarked
package longthread.emitter;

import org.jspecify.annotations.NullMarked;
