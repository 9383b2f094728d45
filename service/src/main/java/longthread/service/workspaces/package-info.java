/**
 * What is in a workspace of a BI tool, what feeds it and what rests on it.
 *
 * <p>{@link longthread.service.workspaces.WorkspaceStore} takes descriptions in and finds what is
 * kept of them; {@link longthread.service.workspaces.WorkspaceMaps} shows one whole, with its
 * surroundings.
 */
@NullMarked
package longthread.service.workspaces;

import org.jspecify.annotations.NullMarked;
