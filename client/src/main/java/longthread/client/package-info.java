/**
 * The command line, and the HTTP client under it.
 *
 * <p>Start with {@link longthread.client.Main}, which lists the commands in the order of the work.
 * A command asks {@link longthread.client.ServiceClient}, and prints with {@link
 * longthread.client.Table} or as JSON or CSV; diagnostics go to standard error only.
 */
@NullMarked
package longthread.client;

import org.jspecify.annotations.NullMarked;
