/** Accounts of people, their sign-ins, and keys of programs. */
@NullMarked
package longthread.service.storage.access;

import org.jspecify.annotations.NullMarked;
