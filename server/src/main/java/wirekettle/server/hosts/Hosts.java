package wirekettle.server.settings;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.util.List;
import wirekettle.connect.HostRule;
import wirekettle.server.simulators.Simulators;

/** The rule every outgoing connection obeys: the allowed hosts as they are now. */
@ApplicationScoped
public class Hosts implements HostRule {
    private static final long FRESH_NANOS = 1_000_000_000L;

    @Inject
    SettingsMapper settings;

    private volatile HostRule rule;
    private volatile long readAt;

    @Inject
    Simulators simulators;

    @Override
    public boolean allows(String host, int port) {
        if (simulators.listensAt(host, port)) {
            return true;
        }
        HostRule known = rule;
        if (known == null || System.nanoTime() - readAt > FRESH_NANOS) {
            List<String> entries =
                    settings.hosts().stream().map(AllowedHost::host).toList();
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
