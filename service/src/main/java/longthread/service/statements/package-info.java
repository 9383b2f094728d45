/**
 * What did people set, and may they set it? Values of assets, recorded lineage, names that are one,
 * terms and rules, all as statements in the log.
 *
 * <p>Start with {@link longthread.service.statements.Statements}: it checks what a person wants to
 * change against what stands, writes it to the log, and takes it back. {@link
 * longthread.service.statements.RecordedLinks} says what became of recorded lineage.
 */
@NullMarked
package longthread.service.statements;

import org.jspecify.annotations.NullMarked;
