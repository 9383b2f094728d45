/** Named choices of what a picture of the graph shows, saved by people and shared. */
@NullMarked
package longthread.service.views;

import org.jspecify.annotations.NullMarked;
