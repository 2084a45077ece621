package wirekettle.server.datasets;

import io.quarkus.arc.Arc;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.web.Problem;

/** How many queries one person may have going on at once; what runs and proofs read on their own is not counted. */
@ApplicationScoped
public class QueryLimit {
    private static final int MOST = 3;

    @Inject
    CurrentPerson current;

    private final Map<String, Integer> going = new ConcurrentHashMap<>();

    /** A place among the queries of a person. */
    interface Place extends AutoCloseable {
        @Override
        void close();
    }

    /** Opens records. */
    interface Opening {
        RecordSource open() throws IOException;
    }

    /** Takes a place for the person who asks; too many are a problem. */
    Place enter() {
        if (!Arc.container().requestContext().isActive() || current.get() == null) {
            return () -> {};
        }
        String person = current.name();
        if (going.merge(person, 1, Integer::sum) > MOST) {
            leave(person);
            throw new Problem(
                    429, "busy", "You have " + MOST + " queries going on: wait until one of them has its answer.");
        }
        return () -> leave(person);
    }

    private void leave(String person) {
        going.computeIfPresent(person, (key, count) -> count <= 1 ? null : count - 1);
    }

    /** Opens records that count until they are closed. */
    RecordSource counted(Opening opening) throws IOException {
        Place place = enter();
        try {
            RecordSource source = opening.open();
            return new RecordSource() {
                private boolean closed;

                @Override
                public Item next() throws IOException {
                    return source.next();
                }

                @Override
                public long size() {
                    return source.size();
                }

                @Override
                public String name() {
                    return source.name();
                }

                @Override
                public void close() throws IOException {
                    if (!closed) {
                        closed = true;
                        place.close();
                    }
                    source.close();
                }
            };
        } catch (IOException | RuntimeException e) {
            place.close();
            throw e;
        }
    }
}
