package longthread.core.event;

import org.jspecify.annotations.Nullable;

/**
 * The program that sent an event.
 *
 * @param producer the address of its code, as it names itself
 * @param version its version, if reported
 * @param engine the engine it reports of, with its version, if reported
 */
public record Emitter(String producer, @Nullable String version, @Nullable String engine) {}
