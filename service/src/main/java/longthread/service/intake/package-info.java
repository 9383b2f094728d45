/** How events come in: checked, made durable in the log, and applied to the catalog. */
@NullMarked
package longthread.service.intake;

import org.jspecify.annotations.NullMarked;
