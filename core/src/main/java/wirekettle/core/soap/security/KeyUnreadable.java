package wirekettle.core.soap.security;

/** A key or certificate file that cannot be read: why, and what to give instead. */
public final class KeyUnreadable extends Exception {
    KeyUnreadable(String message) {
        super(message);
    }
}
