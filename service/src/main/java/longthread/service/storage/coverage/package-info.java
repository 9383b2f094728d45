/** How well systems are covered, and what the reckoning needs of links. */
@NullMarked
package longthread.service.storage.coverage;

import org.jspecify.annotations.NullMarked;
