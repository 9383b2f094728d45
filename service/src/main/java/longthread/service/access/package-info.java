/** Who may do what: keys for programs, accounts and sessions for people. */
@NullMarked
package longthread.service.access;

import org.jspecify.annotations.NullMarked;
