package wirekettle.server.serve;

import java.util.LinkedHashMap;
import java.util.Map;

/** Answers to GET that may be given again for a while; the oldest give way. Safe for several threads. */
final class Remembered {
    private static final int MOST = 1_000;
    private static final int LARGEST = 100_000;

    private record Known(Reply reply, long at) {}

    private final Map<String, Known> all = new LinkedHashMap<>() {
        @Override
        protected boolean removeEldestEntry(Map.Entry<String, Known> eldest) {
            return size() > MOST;
        }
    };
    private final int seconds;

    Remembered(Integer seconds) {
        this.seconds = seconds == null ? 0 : seconds;
    }

    /** Returns the answer to what was asked, with its age; null where there is none. */
    synchronized Reply get(String asked, long nowMillis) {
        Known known = all.get(asked);
        long age = known == null ? 0 : (nowMillis - known.at()) / 1_000;
        if (known == null || age < 0 || age >= seconds) {
            return null;
        }
        return known.reply().with("Age", Long.toString(age)).with("Cache-Control", cacheControl());
    }

    /** Takes an answer; only a good one is given again. */
    synchronized Reply put(String asked, Reply reply, long nowMillis) {
        if (seconds == 0 || reply.status() != 200 || reply.body().length() > LARGEST) {
            return reply;
        }
        all.remove(asked);
        all.put(asked, new Known(reply, nowMillis));
        return reply.with("Cache-Control", cacheControl());
    }

    private String cacheControl() {
        return "private, max-age=" + seconds;
    }
}
