/** What people stated. */
@NullMarked
package longthread.service.storage.statements;

import org.jspecify.annotations.NullMarked;
