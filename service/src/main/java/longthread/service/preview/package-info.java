/**
 * A few rows of an asset, read live from its source and masked for whoever asks. Start with {@link
 * Previews}. Rows are neither stored nor logged; who saw which columns is in the audit log. {@link
 * Sampler} looks at values of columns without labels, where a steward allows it.
 */
@NullMarked
package longthread.service.preview;

import org.jspecify.annotations.NullMarked;
