/**
 * The service: intake, catalog and answers over HTTP, on PostgreSQL.
 *
 * <p>One package per capability, each with its controller, its service and its records. {@code web}
 * holds what they share of HTTP: problems, pages, the console's files.
 */
@NullMarked
package longthread.service;

import org.jspecify.annotations.NullMarked;
