/**
 * What is lineage made of? Links between columns and how they work, as one event or one query
 * reports them and as they are resolved into links of the graph.
 *
 * <p>Start with {@link longthread.core.lineage.ReportedLineage}: what was read, what was written
 * and the column map. {@link longthread.core.lineage.EncodedLineage} is its text and digest, {@link
 * longthread.core.lineage.ResolvedLineage} the links it amounts to, with what SQL adds. {@link
 * longthread.core.lineage.Flow} says how a link works.
 *
 * <p>Equal lineage has equal text. Reading events is {@code event}'s, validity over time is {@code
 * history}'s.
 */
@NullMarked
package longthread.core.lineage;

import org.jspecify.annotations.NullMarked;
