/** A catalog that is made anew beside the live one, and what it is compared by. */
@NullMarked
package longthread.service.storage.rebuild;

import org.jspecify.annotations.NullMarked;
