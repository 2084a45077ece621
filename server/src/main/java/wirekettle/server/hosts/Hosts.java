package wirekettle.server.hosts;

import io.quarkus.arc.All;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.util.List;
import wirekettle.connect.HostRule;

/** The rule every outgoing connection obeys: the allowed hosts as they are now. */
@ApplicationScoped
public class Hosts implements HostRule {
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
            List<String> entries =
                    mapper.hosts().stream().map(AllowedHost::host).toList();
            known = HostRule.of(entries);
            rule = known;
            readAt = System.nanoTime();
        }
        return known.allows(host, port);
    }

    void changed() {
        rule = null;
    }
}
