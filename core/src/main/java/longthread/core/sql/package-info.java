/**
 * What does SQL text say of lineage? For each statement, where every output column comes from,
 * which columns decide the rows, and the characters that compute it.
 *
 * <p>Start with {@link SqlReader}: it takes a script and answers with one {@link SqlStatement} for
 * each thing the script writes or shows. The syntax tree is a general parser's; all that follows
 * from it is worked out here, in two stages. First every query becomes a {@link Relation} whose
 * {@link Field fields} know what they are made of one step back ({@link Uses}): a common table
 * expression, a subquery, a temporary table are relations of their own. Then {@link Origins}
 * follows these steps back to the tables.
 *
 * <p>What cannot be understood is never guessed and never thrown: it is a {@link SqlProblem} of the
 * statement, which is then not complete. Positions are UTF-16 offsets into the text as given, the
 * end excluded.
 */
@NullMarked
package longthread.core.sql;

import org.jspecify.annotations.NullMarked;
