/**
 * Finding things by words: {@link longthread.core.search.WordIndex} knows in which things each word
 * stands, and finds parts of words and typing slips in the list of all different words.
 */
@NullMarked
package longthread.core.search;

import org.jspecify.annotations.NullMarked;
