package wirekettle.server.simulators;

import com.fasterxml.jackson.core.type.TypeReference;
import io.quarkus.runtime.ShutdownEvent;
import io.quarkus.runtime.StartupEvent;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.io.IOException;
import java.net.BindException;
import java.net.InetAddress;
import java.net.UnknownHostException;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicLong;
import org.eclipse.microprofile.config.inject.ConfigProperty;
import org.jboss.logging.Logger;
import wirekettle.connect.SimulatorHost;
import wirekettle.core.simulate.Simulator;
import wirekettle.core.simulate.SimulatorRule;
import wirekettle.core.soap.EndpointReach;
import wirekettle.server.contracts.ContractMapper;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.hosts.OwnListener;
import wirekettle.server.secrets.StoredSecrets;
import wirekettle.server.settings.SimulatorAddresses;
import wirekettle.server.web.Json;

/** The simulators that are running, on one loopback port; each is made when it is first called. */
@ApplicationScoped
public class Simulators implements SimulatorAddresses, OwnListener {
    private static final Logger LOG = Logger.getLogger(Simulators.class);

    /** How many requests of a simulator are kept. */
    private static final int MOST_KEPT = 500;

    /** How much of a request or reply is kept, in characters. */
    private static final int LONGEST_KEPT = 200_000;

    private static final int FORGET_EVERY = 50;

    @Inject
    SimulatorMapper mapper;

    @Inject
    ContractStore contracts;

    @Inject
    ContractMapper contractRows;

    @Inject
    StoredSecrets secrets;

    @ConfigProperty(name = "wirekettle.simulators.port")
    int wantedPort;

    private record Made(int version, int revision, Simulator simulator) {}

    private final Map<Long, Made> made = new ConcurrentHashMap<>();
    private final AtomicLong recorded = new AtomicLong();
    private SimulatorHost host;

    void started(@Observes StartupEvent event) throws IOException {
        try {
            host = new SimulatorHost(wantedPort);
        } catch (BindException e) {
            host = new SimulatorHost(0);
            LOG.warnf("port %d is taken: simulators answer on %d", wantedPort, host.port());
        }
        mapper.page("%", 10_000, 0).forEach(this::serve);
    }

    void stopping(@Observes ShutdownEvent event) {
        host.close();
    }

    @Override
    public String address(long id) {
        return host.address(Long.toString(id));
    }

    @Override
    public boolean listensAt(String name, int port) {
        return name.equals("127.0.0.1") && port == host.port();
    }

    @Override
    public boolean answersAt(String address) {
        String destination = EndpointReach.destination(address);
        if (destination == null || !destination.endsWith(":" + host.port())) {
            return false;
        }
        try {
            String name = destination.substring(0, destination.lastIndexOf(':')).replaceAll("[\\[\\]]", "");
            return InetAddress.getByName(name).isLoopbackAddress();
        } catch (UnknownHostException e) {
            return false;
        }
    }

    /** Serves a simulator as it is now, or no longer when it is switched off. */
    void serve(SimulatorMapper.Row row) {
        String name = Long.toString(row.id());
        made.remove(row.id());
        if (Boolean.TRUE.equals(row.running())) {
            host.add(
                    name,
                    () -> simulator(row.id()),
                    SimulatorHost.Gate.OPEN,
                    (request, answer) -> record(row.id(), request, answer));
        } else {
            host.remove(name);
        }
    }

    /** Serves a simulator no longer. */
    void remove(long id) {
        made.remove(id);
        host.remove(Long.toString(id));
    }

    private Simulator simulator(long id) {
        SimulatorMapper.Row row = mapper.byId(id);
        if (row == null) {
            throw new IllegalStateException("this simulator was removed");
        }
        int revision = contractRows.byId(row.contractId()).revision();
        // the contract may have a new revision, the rules may have changed
        return made.compute(
                        id,
                        (k, known) -> known != null && known.version() == row.version() && known.revision() == revision
                                ? known
                                : new Made(
                                        row.version(),
                                        revision,
                                        new Simulator(contracts.get(row.contractId()), rules(row), null)))
                .simulator();
    }

    /** Returns a simulator's rules. */
    static List<SimulatorRule> rules(SimulatorMapper.Row row) {
        return Json.read(row.rules(), new TypeReference<>() {});
    }

    private void record(long id, byte[] request, Simulator.Answer answer) {
        mapper.received(
                id,
                answer.told().operation(),
                answer.told().rule(),
                kept(request),
                answer.status(),
                kept(answer.body()),
                answer.told().problem());
        if (recorded.incrementAndGet() % FORGET_EVERY == 0) {
            mapper.forget(id, MOST_KEPT);
        }
    }

    private String kept(byte[] content) {
        String text = secrets.masking().mask(new String(content, StandardCharsets.UTF_8).replace("\u0000", ""));
        return text.length() <= LONGEST_KEPT ? text : text.substring(0, LONGEST_KEPT);
    }
}
