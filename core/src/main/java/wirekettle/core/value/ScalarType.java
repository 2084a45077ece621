package wirekettle.core.value;

import com.fasterxml.jackson.annotation.JsonValue;
import java.util.Locale;

/** The type of a column. Values stay text; the type says what the text is meant to be. */
public enum ScalarType {
    /** Any text. */
    STRING,
    /** A whole number. */
    INTEGER,
    /** A number with a decimal point. */
    DECIMAL,
    /** true or false. */
    BOOLEAN,
    /** A day. */
    DATE,
    /** A day and a time, with or without zone. */
    DATETIME,
    /** A time of day. */
    TIME;

    /** Returns the word used in files and the API. */
    @JsonValue
    public String word() {
        return name().toLowerCase(Locale.ROOT);
    }
}
