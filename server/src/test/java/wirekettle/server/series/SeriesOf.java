package wirekettle.server.series;

import wirekettle.core.value.Series;
import wirekettle.server.Database;

/** Series in a database, for tests. */
public final class SeriesOf {
    private SeriesOf() {}

    /** Returns what draws from the series of a database. */
    public static SeriesStore over(Database database) {
        SeriesStore store = new SeriesStore();
        store.mapper = database.mapper(SeriesMapper.class);
        store.database = database.source();
        return store;
    }

    /** Adds a series. */
    public static Series added(SeriesStore store, Series series) {
        store.mapper.add(
                series.name(),
                series.gapless(),
                series.start(),
                series.pattern(),
                series.yearly(),
                series.zone(),
                "ada");
        return series;
    }
}
