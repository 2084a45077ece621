package wirekettle.core.flow.run;

import java.io.IOException;
import java.util.Iterator;
import java.util.List;

/** Some of the records of a source, by their places in it. */
final class PickedSource implements RecordSource {
    private final RecordSource all;
    private final Iterator<Long> places;
    private final int count;
    private long at;

    /** Returns a source of the records at places from 1, in order; all of them where places is null. */
    static RecordSource of(RecordSource all, List<Long> places) {
        return places == null ? all : new PickedSource(all, places);
    }

    private PickedSource(RecordSource all, List<Long> places) {
        this.all = all;
        this.places = places.iterator();
        this.count = places.size();
    }

    @Override
    public Item next() throws IOException {
        if (!places.hasNext()) {
            return null;
        }
        long wanted = places.next();
        Item item = null;
        while (at < wanted) {
            item = all.next();
            at++;
            if (item == null) {
                throw new IOException("the source has changed since the first run: record " + wanted
                        + " is not there any more. Bring the old content back to send it again");
            }
        }
        return item;
    }

    @Override
    public long size() {
        return count;
    }

    @Override
    public String name() {
        return all.name();
    }

    @Override
    public void close() throws IOException {
        all.close();
    }
}
