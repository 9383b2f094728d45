/** Where rows can be read live, and the secrets of this installation. */
@NullMarked
package longthread.service.storage.preview;

import org.jspecify.annotations.NullMarked;
