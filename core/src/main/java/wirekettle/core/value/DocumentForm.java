package wirekettle.core.value;

import com.fasterxml.jackson.annotation.JsonValue;
import java.util.Locale;

/** How a document is written. */
public enum DocumentForm {
    /** RFC 8259. */
    JSON,
    /** XML 1.0. */
    XML;

    /** Returns the word used in files and the API. */
    @JsonValue
    public String word() {
        return name().toLowerCase(Locale.ROOT);
    }
}
