/** Watches, and the messages they sent. */
@NullMarked
package longthread.service.storage.watches;

import org.jspecify.annotations.NullMarked;
