/**
 * What did a person state? Values of assets, lineage that no program reports, which names are one
 * asset, glossary terms and rules.
 *
 * <p>Start with {@link longthread.core.statement.StatementReader}: JSON in, {@link
 * longthread.core.statement.Statement} out, which turns into facts like those of events. So what
 * people set is kept in the same log, merges in any order, and is there again after a rebuild.
 */
@NullMarked
package longthread.core.statement;

import org.jspecify.annotations.NullMarked;
