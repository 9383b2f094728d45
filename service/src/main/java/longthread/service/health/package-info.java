/**
 * How does it do, and may I trust it? A word and a reason for every asset, its own and what it
 * inherits from upstream.
 *
 * <p>Start with {@link longthread.service.health.HealthBoard}: it follows what is applied and keeps
 * the present health of everything in memory. Why something is wrong is the question of {@code
 * cause}.
 */
@NullMarked
package longthread.service.health;

import org.jspecify.annotations.NullMarked;
