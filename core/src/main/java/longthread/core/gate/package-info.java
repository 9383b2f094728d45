/**
 * May a change go in? What two versions of DDL and SQL files change, and what a policy says of its
 * consequences.
 *
 * <p>Start with {@link longthread.core.gate.SqlChanges} for the changes and {@link
 * longthread.core.gate.GatePolicy} for the decision. Judging what lies between is {@code impact}'s.
 */
@NullMarked
package longthread.core.gate;

import org.jspecify.annotations.NullMarked;
