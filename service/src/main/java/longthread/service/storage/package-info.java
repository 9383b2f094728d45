/**
 * Where is it stored, and how is it asked for? Every table is an entity here, and every statement
 * is a method of a query interface beside it, in domain words.
 *
 * <p>Cut by topic: {@code log} (blocks, refusals, counters), {@code sources} (emitters, files),
 * {@code facts} (names, facets, what runs and declarations report), {@code runs} (runs, checks, job
 * versions), {@code graph} (links, the head and its numbered changes), {@code catalog} (cards),
 * {@code access} (accounts, keys), {@code rebuild} (a second catalog beside the live one).
 *
 * <p>No other package knows Hibernate, SQL or a connection. A query joins the caller's transaction,
 * else it has one of its own. {@link DedicatedSession} runs the same queries on a connection
 * outside the pool. Bulk statements take one array a column; {@link Columns} makes them.
 */
@NullMarked
package longthread.service.storage;

import org.jspecify.annotations.NullMarked;
