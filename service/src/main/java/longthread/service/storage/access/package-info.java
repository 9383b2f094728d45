/** Accounts of people and keys of programs. */
@NullMarked
package longthread.service.storage.access;

import org.jspecify.annotations.NullMarked;
