package wirekettle.server.uses;

import com.fasterxml.jackson.annotation.JsonValue;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.util.List;
import java.util.Locale;
import wirekettle.server.web.Problem;

/** Knows what unfinished runs use. */
@ApplicationScoped
public class Uses {
    /** The kinds of things a run uses. */
    public enum Kind {
        /** The flow itself. */
        FLOW,
        /** A dataset that is read or written, a folder among them. */
        DATASET,
        /** A contract. */
        CONTRACT,
        /** An endpoint. */
        ENDPOINT,
        /** A code table. */
        CODES,
        /** A series numbers are drawn from. */
        SERIES,
        /** A secret a fill sends. */
        SECRET,
        /** A simulator that answers. */
        SIMULATOR;

        /** Returns the word in the database. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    @Inject
    UseMapper mapper;

    /** Says that a run uses something. */
    public void add(long run, Kind kind, String name) {
        if (name != null) {
            mapper.add(run, kind.word(), name);
        }
    }

    /** Returns the runs going on that use something. */
    public List<Long> going(Kind kind, String name) {
        return mapper.going(kind.word(), name);
    }

    /** Refuses while a run that uses something goes on. */
    public void mustBeFree(Kind kind, String name, String what) {
        List<Long> going = mapper.going(kind.word(), name);
        if (!going.isEmpty()) {
            throw new Problem(
                            409,
                            "in-use",
                            what + " is used by run " + going.get(0)
                                    + (going.size() > 1 ? " and " + (going.size() - 1) + " more" : "")
                                    + ": wait until it has ended, or cancel it.")
                    .with("runs", going);
        }
    }
}
