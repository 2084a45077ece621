package wirekettle.core.flow.run;

import com.fasterxml.jackson.annotation.JsonValue;
import java.util.Locale;

/** How a record ended. */
public enum End {
    /** It came to the end of the flow and what it writes is written. */
    DONE,
    /** It failed and waits to be corrected. */
    REJECTED,
    /** A filter left it out. */
    LEFT_OUT,
    /** Something that changes data was sent and no answer was seen; it may have taken effect. */
    IN_DOUBT,
    /** An earlier record of its key was rejected or is in doubt. */
    HELD_BACK;

    /** Returns the word used in files and the API. */
    @JsonValue
    public String word() {
        return name().toLowerCase(Locale.ROOT).replace('_', '-');
    }
}
