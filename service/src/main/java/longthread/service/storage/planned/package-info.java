/** Planned changes and the answers of those whom they concern. */
@NullMarked
package longthread.service.storage.planned;

import org.jspecify.annotations.NullMarked;
