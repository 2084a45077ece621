package wirekettle.server.secrets;

import java.nio.file.Path;

/** Vaults for tests. */
public final class Vaults {
    private Vaults() {}

    /** Returns a vault whose key is in a file; it is made where there is none. */
    public static Vault at(Path file) {
        Vault vault = new Vault();
        vault.file = file;
        return vault;
    }
}
