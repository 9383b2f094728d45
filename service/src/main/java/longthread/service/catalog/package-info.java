/**
 * What is there, and what is one asset? Search, browsing, and an asset's page with its columns,
 * history, checks, statistics and parts.
 *
 * <p>Start with {@link longthread.service.catalog.AssetDetails}. Search asks the database for the
 * cards that match and ranks them here; while the database is unreachable it searches in memory.
 * Jobs from the inside are {@code job}'s, runs {@code runs}'.
 */
@NullMarked
package longthread.service.catalog;

import org.jspecify.annotations.NullMarked;
