package wirekettle.core.flow.run;

import java.io.IOException;
import wirekettle.core.value.Series;

/** Where the numbers of series are drawn, for one run. Safe for several threads. */
public interface Numbers {
    /**
     * Who draws a number.
     *
     * @param ordinal the record
     * @param path where in it the item is
     * @param stage the stage
     */
    record Place(long ordinal, String path, String stage) {}

    /**
     * Draws a number; durable when it returns. Of a gapless series the same place gets the same number again until its
     * record has ended, and what is given back is drawn first.
     *
     * @param year the year it is drawn in
     * @throws IOException when none can be drawn now
     */
    long draw(Series series, int year, Place place) throws IOException;

    /** Shows the first number, and draws none. */
    Numbers FIRST = (series, year, place) -> series.start();
}
