/**
 * Measurements, as ratios against a control in the same run, since machines are shared and noisy.
 *
 * <p>{@link longthread.bench.GraphBench} measures the graph in memory on generated estates, {@link
 * longthread.bench.IntakeLoad} a running service's intake.
 */
@NullMarked
package longthread.bench;

import org.jspecify.annotations.NullMarked;
