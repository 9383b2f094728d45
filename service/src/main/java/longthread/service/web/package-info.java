/** What all capabilities share of HTTP: problems, lists, the console's files. */
@NullMarked
package longthread.service.web;

import org.jspecify.annotations.NullMarked;
