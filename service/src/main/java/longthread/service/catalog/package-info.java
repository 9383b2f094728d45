/**
 * What is there, and what is one asset? Search, browsing, and an asset's page with its columns,
 * history, checks, statistics and parts.
 *
 * <p>Start with {@link longthread.service.catalog.AssetDetails}. Search and browsing answer from
 * memory, from the words that {@code live} holds; only addresses ask the database. Jobs from the
 * inside are {@code job}'s, runs {@code runs}'.
 */
@NullMarked
package longthread.service.catalog;

import org.jspecify.annotations.NullMarked;
