/**
 * What does a piece of SQL say? Column lineage of text, stateless; the reader itself is {@code
 * core}'s.
 */
@NullMarked
package longthread.service.sql;

import org.jspecify.annotations.NullMarked;
