/**
 * How events come in: checked, made durable in the log, and worked into the catalog.
 *
 * <p>Start with {@link longthread.service.intake.EventLog} for how an event becomes durable and
 * with {@link longthread.service.intake.Applier} for how it becomes part of the catalog. The ways
 * in are {@code IntakeController} (with {@code StraightIn} as its short way), {@code FilePickup}
 * and {@code TopicReader}; all hand their bytes to the log. {@code Rebuilder} does what the applier
 * does once more from the beginning, beside the live catalog.
 *
 * <p>Whatever is written depends on the facts alone and never on their order: facts are only added,
 * or the greater or lesser of two is kept ({@code FactStore}), and what is computed from them
 * ({@code RunWriter}, {@code JobWriter}, {@code CardWriter}) is computed from all of them. The
 * applier remembers what it wrote lately, and drops that when a transaction was rolled back or
 * another replica wrote.
 */
@NullMarked
package longthread.service.intake;

import org.jspecify.annotations.NullMarked;
