/**
 * How does one keep the catalog right in bulk? Values out and back in as sheets, the glossary, and
 * what the catalog proposes: names that are one asset, likely copies, terms for copied columns.
 *
 * <p>Start with {@link longthread.service.stewardship.Edits}. Whatever is accepted becomes a
 * statement; what is declined is one, too.
 */
@NullMarked
package longthread.service.stewardship;

import org.jspecify.annotations.NullMarked;
