package wirekettle.server.flows;

import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.Map;

/** Maps that keep only what was used last. */
final class LatestMap {
    private LatestMap() {}

    /** Returns a map of at most so many entries, safe for several threads. */
    static <V> Map<String, V> of(int most) {
        return Collections.synchronizedMap(new LinkedHashMap<>(16, 0.75f, true) {
            @Override
            protected boolean removeEldestEntry(Map.Entry<String, V> eldest) {
                return size() > most;
            }
        });
    }
}
