/** Links with validity and evidence, and the numbered changes that replicas follow. */
@NullMarked
package longthread.service.storage.graph;

import org.jspecify.annotations.NullMarked;
