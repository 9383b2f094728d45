/** Where labels are set, how far they travelled, and by which way. */
@NullMarked
package longthread.service.labels;

import org.jspecify.annotations.NullMarked;
