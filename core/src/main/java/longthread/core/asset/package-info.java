/**
 * What are things called, what are they, and which names mean one thing?
 *
 * <p>Start with {@link longthread.core.asset.Reference}, the text form of every name; then {@link
 * longthread.core.asset.AssetGrouping}, which joins several dataset names into one asset.
 *
 * <p>A dataset's identity is the exact pair of namespace and name that an emitter sent. An asset is
 * only a view over such pairs and may change when rules or symbolic links change; facts never hang
 * on it.
 */
@NullMarked
package longthread.core.asset;

import org.jspecify.annotations.NullMarked;
