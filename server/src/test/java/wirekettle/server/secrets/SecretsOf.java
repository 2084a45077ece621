package wirekettle.server.secrets;

import java.nio.file.Path;
import java.util.List;
import wirekettle.server.Database;

/** Secrets in a database, for tests. */
public final class SecretsOf {
    private SecretsOf() {}

    /** Returns a store with one secret that may be sent to some places. */
    public static StoredSecrets one(Database database, Path folder, String name, String value, String... destinations) {
        StoredSecrets secrets = new StoredSecrets();
        secrets.mapper = database.mapper(SecretMapper.class);
        secrets.vault = Vaults.at(folder.resolve("secret.key"));
        secrets.write(name, value, "ada");
        secrets.allow(name, List.of(destinations));
        return secrets;
    }

    /** Writes another value of a secret. */
    public static void change(StoredSecrets secrets, String name, String value) {
        secrets.write(name, value, "ada");
    }
}
