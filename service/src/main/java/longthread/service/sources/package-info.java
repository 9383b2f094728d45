/**
 * How does a source come to report? Ways to connect one, what each connection gave so far, and the
 * databases that the service reads by itself.
 *
 * <p>Start with {@link longthread.service.sources.Connections} and {@link
 * longthread.service.sources.Readers}.
 */
@NullMarked
package longthread.service.sources;

import org.jspecify.annotations.NullMarked;
