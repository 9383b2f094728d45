/** The cards of datasets and jobs, and how search finds them. */
@NullMarked
package longthread.service.storage.catalog;

import org.jspecify.annotations.NullMarked;
