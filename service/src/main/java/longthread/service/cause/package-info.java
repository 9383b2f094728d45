/**
 * Why is this wrong or late? The suspects upstream of a symptom, with evidence, threads and owners.
 *
 * <p>Start with {@link longthread.service.cause.CauseFinder}: it hands stored runs and checks to
 * the search in {@code core}, where suspects are ranked.
 */
@NullMarked
package longthread.service.cause;

import org.jspecify.annotations.NullMarked;
