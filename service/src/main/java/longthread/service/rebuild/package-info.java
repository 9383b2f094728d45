/**
 * How is the catalog made anew? From the log, in a schema beside the live one, compared with it and
 * put in its place.
 *
 * <p>Start with {@link longthread.service.rebuild.Rebuilder}.
 */
@NullMarked
package longthread.service.rebuild;

import org.jspecify.annotations.NullMarked;
