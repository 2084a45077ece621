package wirekettle.server.hosts;

import io.quarkus.arc.All;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.util.List;
import org.jboss.logging.Logger;
import wirekettle.connect.HostRule;

/** The rule every outgoing connection obeys: the allowed hosts as they are now. */
@ApplicationScoped
public class Hosts implements HostRule {
    private static final Logger LOG = Logger.getLogger(Hosts.class);
    private static final long FRESH_NANOS = 1_000_000_000L;

    @Inject
    HostMapper mapper;

    private volatile HostRule rule;
    private volatile long readAt;

    @Inject
    @All
    List<OwnListener> own;

    @Override
    public boolean allows(String host, int port) {
        for (OwnListener listener : own) {
            if (listener.listensAt(host, port)) {
                return true;
            }
        }
        HostRule known = rule;
        if (known == null || System.nanoTime() - readAt > FRESH_NANOS) {
            known = read(known);
        }
        return known.allows(host, port);
    }

    /** While the database is away nobody can change what is allowed: runs that wait for it go by what was known. */
    private HostRule read(HostRule known) {
        HostRule read = known;
        try {
            read = HostRule.of(mapper.hosts().stream().map(AllowedHost::host).toList());
        } catch (RuntimeException e) {
            if (known == null) {
                throw e;
            }
            LOG.warnf("the allowed hosts cannot be read now: %s", e.getMessage());
        }
        rule = read;
        readAt = System.nanoTime();
        return read;
    }

    void changed() {
        rule = null;
    }
}
