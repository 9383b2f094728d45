/**
 * What does one lineage event say? It is taken apart into facts that merge in any order.
 *
 * <p>Start with {@link longthread.core.event.EventReader}: bytes in, {@link
 * longthread.core.event.EventFacts} out. Every fact is a member of a grow-only set, a value whose
 * greatest (event time, digest) wins, or a least time per kind of end; so merging is commutative,
 * associative and idempotent, and no order of arrival can change the catalog.
 *
 * <p>The standard's wire members are those of OpenLineage spec 2-0-2; older column lineage without
 * transformations is read too.
 */
@NullMarked
package longthread.core.event;

import org.jspecify.annotations.NullMarked;
