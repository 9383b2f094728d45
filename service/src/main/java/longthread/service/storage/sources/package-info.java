/** Who sends events, and which files were picked up. */
@NullMarked
package longthread.service.storage.sources;

import org.jspecify.annotations.NullMarked;
