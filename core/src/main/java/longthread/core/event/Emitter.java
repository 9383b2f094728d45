package longthread.core.event;

import org.jspecify.annotations.Nullable;

/**
 * The program that sent an event.
 *
 * @param producer the address of its code, as it names itself
 * @param version its version, where it tells it
 * @param engine the engine it reports of, with its version, where it tells them
 */
public record Emitter(String producer, @Nullable String version, @Nullable String engine) {}
