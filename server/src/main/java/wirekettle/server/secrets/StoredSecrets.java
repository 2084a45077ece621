package wirekettle.server.secrets;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicLong;
import wirekettle.core.soap.security.Certificates;
import wirekettle.core.soap.security.KeyMaterial;
import wirekettle.core.soap.security.Masking;
import wirekettle.core.soap.security.Secrets;
import wirekettle.server.web.Problem;

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

    private static final long LOOK_NANOS = 1_000_000_000;

    private final AtomicLong version = new AtomicLong();
    private volatile long looked = System.nanoTime() - LOOK_NANOS;
    private final Map<String, Opened> opened = new ConcurrentHashMap<>();
    // values that were written over: they may still stand in what comes back, and are hidden on
    private final Set<String> former = ConcurrentHashMap.newKeySet();

    private record Opened(long version, String value, Set<String> destinations) {}

    private Masking all;
    private long allAt;

    /** Returns a number that changes with every change of a secret, at other servers within a second. */
    public long version() {
        long now = System.nanoTime();
        if (now - looked > LOOK_NANOS) {
            looked = now;
            version.set(mapper.changes());
        }
        return version.get();
    }

    private void changed() {
        version.set(mapper.changed());
    }

    /** Gives secrets the values whose time has come; what they were before stays hidden. */
    public void takeDue(Instant now) {
        List<SecretMapper.Row> waiting = mapper.waiting();
        if (waiting.stream().noneMatch(each -> !each.changedAt().isAfter(now))) {
            return;
        }
        waiting.forEach(each -> remember(each.name()));
        if (!mapper.takeDue(now).isEmpty()) {
            changed();
        }
    }

    private Opened opened(String name) {
        long now = version();
        Opened known = opened.get(name);
        if (known != null && known.version() == now) {
            return known;
        }
        SecretMapper.Row row = mapper.byName(name);
        if (row == null) {
            throw new SecretMissing(name);
        }
        Opened read = new Opened(now, vault.open(name, row.sealed()), Set.copyOf(mapper.destinations(name)));
        opened.put(name, read);
        return read;
    }

    @Override
    public String text(String name) {
        throw new SecretElsewhere(name, null);
    }

    @Override
    public Secrets sentTo(String destination) {
        return name -> {
            Opened secret = opened(name);
            if (destination == null || !secret.destinations().contains(destination)) {
                throw new SecretElsewhere(name, destination);
            }
            return secret.value();
        };
    }

    /** Returns those of some secrets that may not be sent to a place. */
    public List<String> notFor(String destination, Collection<String> names) {
        return names.stream()
                .filter(name -> mapper.byName(name) != null)
                .filter(name ->
                        destination == null || !opened(name).destinations().contains(destination))
                .toList();
    }

    /** Returns what hides every secret there is, for texts that did not pass through an endpoint. */
    public synchronized Masking masking() {
        long now = version();
        if (all != null && allAt == now) {
            return all;
        }
        Masking masking = new Masking(former);
        allAt = now;
        List<SecretMapper.Row> known = new ArrayList<>(mapper.all());
        known.addAll(mapper.waiting());
        for (SecretMapper.Row row : known) {
            if (row.kind().equals(TEXT)) {
                masking.hide(vault.open(row.name(), row.sealed()));
            }
        }
        all = masking;
        return masking;
    }

    /** Keeps a value that counts from a moment on. */
    void writeNext(String name, String value, Instant from, String by) {
        mapper.writeNext(name, TEXT, vault.seal(name, value), null, null, from, by);
        changed();
    }

    /** Keeps a key that counts from a moment on. */
    void writeNext(String name, KeyMaterial key, Instant from, String by) {
        Instant until = key.certificate().getNotAfter().toInstant();
        mapper.writeNext(
                name, KEY, vault.seal(name, key.pem()), Certificates.owner(key.certificate()), until, from, by);
        changed();
    }

    void write(String name, String value, String by) {
        remember(name);
        mapper.write(name, TEXT, vault.seal(name, value), null, null, by);
        changed();
    }

    void write(String name, KeyMaterial key, String by) {
        Instant until = key.certificate().getNotAfter().toInstant();
        mapper.write(name, KEY, vault.seal(name, key.pem()), Certificates.owner(key.certificate()), until, by);
        changed();
    }

    /** Sets where a secret may be sent, as host:port in small letters. */
    void allow(String name, Collection<String> destinations) {
        mapper.allowNowhere(name);
        destinations.forEach(destination -> mapper.allow(name, destination));
        changed();
    }

    private void remember(String name) {
        SecretMapper.Row row = mapper.byName(name);
        if (row != null && row.kind().equals(TEXT)) {
            try {
                former.add(vault.open(name, row.sealed()));
            } catch (Problem sealedWithAnotherKey) {
                // what cannot be opened was not sent by this server either
            }
        }
    }

    void remove(String name) {
        remember(name);
        mapper.remove(name);
        opened.remove(name);
        changed();
    }
}
