/**
 * How do events come in, and did they arrive? HTTP, files and Kafka topics, all into one log by the
 * same rules; what was refused and why; who sends.
 *
 * <p>Start with {@link longthread.service.intake.IntakeController}. An answer is given only when
 * the event is durable. A bad event never harms its neighbours: it is kept with its reason and can
 * be retried.
 *
 * <p>Making events durable is {@code log}'s, working them into the catalog {@code apply}'s.
 */
@NullMarked
package longthread.service.intake;

import org.jspecify.annotations.NullMarked;
