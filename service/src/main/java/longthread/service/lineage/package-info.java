/** What feeds what: the graph in memory, its views and threads, and how it follows changes. */
@NullMarked
package longthread.service.lineage;

import org.jspecify.annotations.NullMarked;
