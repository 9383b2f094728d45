/**
 * SQL over HTTP: what a text says of lineage, for anyone who asks, and how a job computes what it
 * writes, step by step.
 *
 * <p>Start with {@link SqlController}. The reading itself is {@code longthread.core.sql}'s.
 */
@NullMarked
package longthread.service.sql;

import org.jspecify.annotations.NullMarked;
