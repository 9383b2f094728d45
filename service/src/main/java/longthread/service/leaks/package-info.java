/**
 * Where labelled data reaches places that may not hold it, by the policies of stewards. Start with
 * {@link LeakBoard}.
 */
@NullMarked
package longthread.service.leaks;

import org.jspecify.annotations.NullMarked;
