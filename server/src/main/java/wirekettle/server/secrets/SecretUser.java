package wirekettle.server.secrets;

import java.util.List;

/** What sends secrets, and can be asked which. */
public interface SecretUser {
    /** Returns what sends a secret, in words; empty when nothing does. */
    List<String> uses(String secret);
}
