/**
 * Which text do two equal JSON values share? {@link longthread.core.json.CanonicalJson} writes it.
 */
@NullMarked
package longthread.core.json;

import org.jspecify.annotations.NullMarked;
