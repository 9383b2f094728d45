package longthread.core.label;

import longthread.core.lineage.Flow;

/**
 * How a label travels. It always goes on where values are copied, computed or contained, and never
 * over a flow that only decides which rows there are.
 *
 * @param overAggregation whether it goes on into what is made of many values: a list of persons is
 *     personal, their number is not
 * @param overConditional whether it goes on into what it only decides, such as the result of a CASE
 * @param overMasks whether it goes on through a hash or mask
 */
public record LabelRule(boolean overAggregation, boolean overConditional, boolean overMasks) {
  /** What happens to a label at a link. */
  enum Passage {
    /** The target has the label too. */
    GOES_ON,
    /** It may have it: nothing is known of the columns between the two. */
    PERHAPS,
    /** A mask stops it. */
    MASKED,
    /** The labelled column only decides what is there, and none of its values arrives. */
    INFLUENCES,
    ENDS
  }

  Passage at(Flow flow, boolean masking) {
    Passage open =
        switch (flow) {
          case IDENTITY, TRANSFORMATION, DIRECT, HOLDS -> Passage.GOES_ON;
          case AGGREGATION -> overAggregation ? Passage.GOES_ON : Passage.INFLUENCES;
          case CONDITIONAL, WINDOW -> overConditional ? Passage.GOES_ON : Passage.INFLUENCES;
          case JOIN, FILTER, GROUP_BY, SORT, INDIRECT -> Passage.INFLUENCES;
          case COARSE -> Passage.PERHAPS;
          case ROWS, ROWS_TO_VALUE, READS -> Passage.ENDS;
        };
    boolean arrives = open == Passage.GOES_ON || open == Passage.PERHAPS;
    return arrives && masking && !overMasks ? Passage.MASKED : open;
  }
}
