package wirekettle.core.soap;

import com.fasterxml.jackson.annotation.JsonValue;
import java.util.Locale;

/** What kind of failure a record met. */
public enum FailureClass {
    /** A fill could not make its value. */
    MAPPING,
    /** The message made is not valid against the contract. */
    VALIDATION,
    /** Nothing was sent: no connection. */
    CONNECTION,
    /** No whole answer in time. */
    TIMEOUT,
    /** An HTTP status that is no success, without a fault. */
    HTTP_STATUS,
    /** A SOAP fault. */
    FAULT,
    /** A "counts as failed when" condition held. */
    CONDITION,
    /** An answer that cannot be read. */
    REPLY,
    /** The result could not be written. */
    WRITE,
    /** This program failed. */
    INTERNAL;

    /** Returns the word used in files and the API. */
    @JsonValue
    public String word() {
        return name().toLowerCase(Locale.ROOT).replace('_', '-');
    }
}
