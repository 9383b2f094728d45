/** Views of the graph that people saved. */
@NullMarked
package longthread.service.storage.views;

import org.jspecify.annotations.NullMarked;
