/** What there is: the assets, their cards, finding and browsing them, their runs. */
@NullMarked
package longthread.service.catalog;

import org.jspecify.annotations.NullMarked;
