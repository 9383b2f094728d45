/**
 * What was behind a figure at a moment, as a document that can be handed over and checked later.
 *
 * <p>Start with {@link longthread.service.proof.Proofs}. A proof has the runs, their code, what
 * they read, the checks, notices and people, and the digests of the events that say so; it is
 * signed with a key of this installation.
 */
@NullMarked
package longthread.service.proof;

import org.jspecify.annotations.NullMarked;
