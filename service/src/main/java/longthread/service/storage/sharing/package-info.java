/** Links that show one report to people without an account, tickets, and what people looked at. */
@NullMarked
package longthread.service.storage.sharing;

import org.jspecify.annotations.NullMarked;
