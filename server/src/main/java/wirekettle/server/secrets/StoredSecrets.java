package wirekettle.server.secrets;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.time.Instant;
import java.util.concurrent.atomic.AtomicLong;
import wirekettle.core.soap.security.Certificates;
import wirekettle.core.soap.security.KeyMaterial;
import wirekettle.core.soap.security.Masking;
import wirekettle.core.soap.security.Secrets;

/** The secrets in the store, opened only while a call is prepared. */
@ApplicationScoped
public class StoredSecrets implements Secrets {
    /** A password or token. */
    static final String TEXT = "text";
    /** A private key with its certificate. */
    static final String KEY = "key";

    @Inject
    SecretMapper mapper;

    @Inject
    Vault vault;

    private final AtomicLong version = new AtomicLong();
    private Masking all;
    private long allAt;

    /** Returns a number that changes with every change of a secret. */
    public long version() {
        return version.get();
    }

    @Override
    public String text(String name) {
        SecretMapper.Row row = mapper.byName(name);
        if (row == null) {
            throw new SecretMissing(name);
        }
        return vault.open(name, row.sealed());
    }

    /** Returns what hides every secret there is, for texts that did not pass through an endpoint. */
    public synchronized Masking masking() {
        if (all != null && allAt == version.get()) {
            return all;
        }
        Masking masking = new Masking();
        allAt = version.get();
        for (SecretMapper.Row row : mapper.all()) {
            if (row.kind().equals(TEXT)) {
                masking.hide(vault.open(row.name(), row.sealed()));
            }
        }
        all = masking;
        return masking;
    }

    void write(String name, String value, String by) {
        mapper.write(name, TEXT, vault.seal(name, value), null, null, by);
        version.incrementAndGet();
    }

    void write(String name, KeyMaterial key, String by) {
        Instant until = key.certificate().getNotAfter().toInstant();
        mapper.write(name, KEY, vault.seal(name, key.pem()), Certificates.owner(key.certificate()), until, by);
        version.incrementAndGet();
    }

    void remove(String name) {
        mapper.remove(name);
        version.incrementAndGet();
    }
}
