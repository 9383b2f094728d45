/**
 * What does a change do to everything downstream of it?
 *
 * <p>Start with {@link longthread.core.impact.ImpactAnalysis}: changes in, a verdict for each
 * touched asset out, and for the untouched whether that is certain. The table of how each change
 * passes each kind of flow stands in its documentation.
 */
@NullMarked
package longthread.core.impact;

import org.jspecify.annotations.NullMarked;
