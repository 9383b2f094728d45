/**
 * How does the catalog follow from the log? Events are read into facts, facts are merged, and for
 * the jobs and datasets touched everything else is computed anew.
 *
 * <p>Start with {@link longthread.service.apply.Applier}: batches of blocks, each one transaction,
 * by one replica at a time. {@link longthread.service.apply.CatalogWriter} is the order of the
 * work: facts, runs, links with their evidence ({@link longthread.service.apply.JobWriter}), cards.
 *
 * <p>What is written depends on the facts alone, so it may be written again at any time; the number
 * of statements of a batch does not depend on its size.
 */
@NullMarked
package longthread.service.apply;

import org.jspecify.annotations.NullMarked;
