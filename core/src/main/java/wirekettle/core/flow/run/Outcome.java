package wirekettle.core.flow.run;

import com.fasterxml.jackson.annotation.JsonValue;
import java.util.Locale;

/** What became of a record. */
public enum Outcome {
    /** Its rows are written. */
    WRITTEN,
    /** It failed and waits to be corrected. */
    REJECTED,
    /** It was sent and no answer was seen; it may have taken effect. */
    IN_DOUBT;

    /** Returns the word used in files and the API. */
    @JsonValue
    public String word() {
        return name().toLowerCase(Locale.ROOT).replace('_', '-');
    }
}
