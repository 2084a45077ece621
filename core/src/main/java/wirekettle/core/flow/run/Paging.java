package wirekettle.core.flow.run;

import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Consumer;
import wirekettle.core.value.Node;

/** How far the calls of an item have asked for page after page. For one thread at a time. */
final class Paging {
    private Map<String, Pages> pages;
    private Consumer<List<Node>> reader;

    /** Returns how far a call has asked for page after page, null when it has not. */
    Pages of(String call) {
        return pages == null ? null : pages.get(call);
    }

    /** Notes how far a call has asked; null when it has all pages. */
    void asks(String call, Pages its) {
        if (pages == null) {
            pages = new HashMap<>(2);
        }
        pages.put(call, its);
    }

    /** Lets each page be taken as it comes: the records of a run are read with it. */
    void reads(Consumer<List<Node>> taker) {
        reader = taker;
    }

    /** Takes the rows of a page where they are read one page at a time; tells whether they are. */
    boolean takesPage(List<Node> rows) {
        if (reader == null) {
            return false;
        }
        reader.accept(rows);
        return true;
    }
}
