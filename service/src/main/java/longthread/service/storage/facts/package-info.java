/** What events say: names, facets, reported and declared lineage, renames. */
@NullMarked
package longthread.service.storage.facts;

import org.jspecify.annotations.NullMarked;
