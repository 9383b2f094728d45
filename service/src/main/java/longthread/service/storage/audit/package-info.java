/** The audit log. */
@NullMarked
package longthread.service.storage.audit;

import org.jspecify.annotations.NullMarked;
