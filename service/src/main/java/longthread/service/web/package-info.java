/**
 * What do all controllers need of HTTP? Problem documents, pages of lists, CSV, times, the
 * console's files, the published description.
 *
 * <p>It depends on no other package of the service.
 */
@NullMarked
package longthread.service.web;

import org.jspecify.annotations.NullMarked;
