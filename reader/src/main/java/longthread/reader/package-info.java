/**
 * What does a source system know of its own data? It is read over a connection of its own and
 * becomes events of the standard.
 *
 * <p>Start with {@link longthread.reader.PostgresReader}. Nothing is written to the source, every
 * statement is limited in time, and only what changed since the last reading is reported.
 *
 * <p>This module speaks to foreign databases over JDBC. Long Thread's own records are not its
 * business: they are kept through Hibernate by the service alone.
 */
@NullMarked
package longthread.reader;

import org.jspecify.annotations.NullMarked;
