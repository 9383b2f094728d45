/**
 * What do people say of an asset, and on what does it show? Notices, shown on everything they
 * affect until they end or are lifted.
 *
 * <p>Start with {@link longthread.service.notices.NoticeBoard}. A notice is a statement in the log
 * like all that people set.
 */
@NullMarked
package longthread.service.notices;

import org.jspecify.annotations.NullMarked;
