/**
 * The demo world of Hollin Vale Dairy Co-operative: stand-ins for its orchestrator and its BI
 * workspaces.
 *
 * <p>Start with {@link longthread.demo.Play}. {@link longthread.demo.Nightshift} really runs the
 * pipelines' SQL on a database and reports what it did in events of the open lineage standard;
 * {@link longthread.demo.Sightglass} refreshes its models and describes its reports. Both reach the
 * service only over HTTP, as any emitter would.
 */
@NullMarked
package longthread.demo;

import org.jspecify.annotations.NullMarked;
