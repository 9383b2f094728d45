/**
 * What does the service answer? Its answers as records, as far as the command line prints them;
 * what a newer service adds is passed over.
 *
 * <p>A list that an answer leaves out is empty, any other member is null or zero.
 */
@NullMarked
package longthread.client.answers;

import org.jspecify.annotations.NullMarked;
