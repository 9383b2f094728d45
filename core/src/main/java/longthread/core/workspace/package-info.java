/**
 * What a BI workspace holds, as its tool describes it, and what that means for the catalog.
 *
 * <p>Start with {@link WorkspaceReader}: it checks a description and gives a {@link
 * WorkspaceDescription}. {@link LogEntry} reads whatever the log keeps, descriptions and events of
 * the standard alike, into facts.
 *
 * <p>A description stands for the whole workspace at one moment; the newest one counts. What an
 * item of it says is one facet, so that it is replaced as a whole, and an item that the newest
 * description lacks is retired.
 */
@NullMarked
package longthread.core.workspace;

import org.jspecify.annotations.NullMarked;
