package wirekettle.server.settings;

import io.quarkus.runtime.ShutdownEvent;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.time.Clock;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.connect.HttpTransport;
import wirekettle.connect.queue.Broker;
import wirekettle.core.fill.MessageStyle;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.Transport;
import wirekettle.core.soap.security.Secrets;
import wirekettle.server.datasets.DatasetFolders;
import wirekettle.server.environments.Environments;
import wirekettle.server.hosts.Hosts;
import wirekettle.server.secrets.SecretUser;
import wirekettle.server.secrets.StoredSecrets;
import wirekettle.server.web.Problem;

/** How endpoints are reached, and how messages are written for them. */
@ApplicationScoped
public class Endpoints implements SecretUser {
    /** How many routes are kept open: connections and access tokens are used again while nothing changes. */
    private static final int MOST_OPEN = 40;

    /** Nobody waits long for a farewell. */
    private static final Transport.Limits FAREWELL = new Transport.Limits(2_000, 3_000, 5_000, 1 << 20, 1 << 20);

    @Inject
    SettingsMapper settings;

    @Inject
    Hosts hosts;

    @Inject
    StoredSecrets secrets;

    @Inject
    SimulatorAddresses simulators;

    @Inject
    DatasetFolders folders;

    @Override
    public List<String> uses(String secret) {
        return settings.endpoints().stream()
                .flatMap(endpoint -> endpoint.environments().entrySet().stream()
                        .filter(e -> e.getValue().settings().secrets().contains(secret))
                        .map(e -> endpoint.name() + " in " + e.getKey()))
                .toList();
    }

    private record Key(String address, EndpointSettings settings, long secrets) {}

    private final Map<Key, Route> open = new LinkedHashMap<>(16, 0.75f, true) {
        @Override
        protected boolean removeEldestEntry(Map.Entry<Key, Route> eldest) {
            boolean over = size() > MOST_OPEN;
            if (over) {
                farewell(eldest.getValue());
            }
            return over;
        }
    };

    /** Ends the session of a route, where it has one, without keeping anybody waiting. */
    private static void farewell(Route route) {
        if (route.reach().session() != null) {
            Thread thread = new Thread(route::farewell, "farewell");
            thread.setDaemon(true);
            thread.start();
        }
    }

    /** Ends all sessions when the server stops. */
    void stopping(@Observes ShutdownEvent event) {
        synchronized (open) {
            open.values().forEach(Route::farewell);
        }
    }

    /** What reaching an endpoint takes, and the transport that does it. */
    public record Route(EndpointReach reach, Transport transport) {
        /** Returns this route with secrets standing for those fills name. */
        public Route withStandIns(Map<String, String> standIns) {
            return new Route(reach.withStandIns(standIns), transport);
        }

        /** Ends its session, where it has one. */
        void farewell() {
            if (reach.session() != null) {
                reach.session().farewell(transport, reach, FAREWELL);
            }
        }
    }

    /** Returns an endpoint's address in an environment; a problem says what to set where there is none. */
    public String address(String name, String environment) {
        Endpoint endpoint = name == null ? null : settings.endpoint(name);
        String address = endpoint == null ? "" : address(endpoint, environment);
        if (address.isBlank()) {
            throw new Problem(
                    422,
                    "no-address",
                    "Endpoint “" + name + "” has no address in " + environment
                            + (Environments.SIMULATOR.equals(environment)
                                    ? ": make a simulator on the contract's page."
                                    : ": set it in the call's Delivery or in Settings."));
        }
        return address;
    }

    /** Returns an endpoint's address in an environment, empty when there is none. */
    public String address(Endpoint endpoint, String environment) {
        return Environments.SIMULATOR.equals(environment) && endpoint.simulator() != null
                ? simulators.address(endpoint.simulator())
                : endpoint.address(environment);
    }

    /** Sets an endpoint's address in an environment where it has none; the endpoint is made when there is none. */
    public void addressUnlessSet(String name, String environment, String address) {
        Endpoint endpoint = settings.endpoint(name);
        if (endpoint == null || endpoint.address(environment).isBlank()) {
            settings.save(name, environment, address);
        }
    }

    /** Returns what says how an endpoint is reached in an environment; it equals another as long as nothing changed. */
    public Object state(String name, String environment) {
        Endpoint endpoint = name == null ? null : settings.endpoint(name);
        return endpoint == null
                ? List.of()
                : new Key(
                        address(endpoint, environment),
                        endpoint.way(environment).settings(),
                        secrets.version());
    }

    /** Returns how an endpoint is reached in an environment; a problem says what is missing. */
    public Route route(String name, String environment) {
        String address = address(name, environment);
        return route(address, settings.endpoint(name).way(environment).settings());
    }

    /** Returns how an address is reached with given settings; a problem says what is missing. */
    public Route route(String address, EndpointSettings wanted) {
        Key key = new Key(address, wanted, secrets.version());
        synchronized (open) {
            Route known = open.get(key);
            if (known == null) {
                known = make(address, wanted);
                open.put(key, known);
            }
            return known;
        }
    }

    /** Returns the broker an endpoint is in an environment; a problem says what is missing to reach it. */
    public Broker broker(String name, String environment) {
        String address = address(name, environment);
        if (!EndpointReach.broker(address)) {
            throw new Problem(
                    422,
                    "no-broker",
                    "“" + name + "” is at " + address + " in " + environment
                            + ": a broker has an address as in amqp://broker.example:5672.");
        }
        return new Broker(
                hosts, reach(address, settings.endpoint(name).way(environment).settings()));
    }

    private Route make(String address, EndpointSettings wanted) {
        EndpointReach reach = reach(address, wanted);
        try {
            return new Route(reach, new HttpTransport(hosts, reach));
        } catch (IllegalArgumentException e) {
            throw new Problem(422, "bad-settings", sentence(e.getMessage()));
        }
    }

    private EndpointReach reach(String address, EndpointSettings wanted) {
        try {
            // a simulator shows whatever it receives to everybody: no secret goes there
            boolean simulated = simulators.answersAt(address);
            return EndpointReach.of(
                            address,
                            simulated ? wanted.withoutProofs() : wanted,
                            simulated ? Secrets.STAND_INS : secrets,
                            Clock.systemUTC())
                    .with(folders);
        } catch (Secrets.SecretElsewhere e) {
            throw elsewhere(e.name(), e.destination());
        } catch (Secrets.SecretMissing e) {
            throw new Problem(422, "secret-missing", sentence(e.getMessage()));
        } catch (IllegalArgumentException e) {
            throw new Problem(422, "bad-settings", sentence(e.getMessage()));
        }
    }

    /** Returns the problem of a secret that may not be sent somewhere, so that it can be allowed on the spot. */
    static Problem elsewhere(String secret, String destination) {
        return new Problem(
                        409,
                        "secret-elsewhere",
                        "The secret “" + secret + "” may not be sent to "
                                + (destination == null ? "an address without a host" : destination)
                                + ": whoever manages secrets can allow it in Settings, Secrets.")
                .with("secret", secret)
                .with("destination", destination == null ? "" : destination);
    }

    /** Refuses settings at an address that would send a secret where it may not go. */
    void mustBeAllowed(String address, EndpointSettings wanted) {
        if (address.isBlank() || simulators.answersAt(address)) {
            return;
        }
        EndpointSettings.Login login = wanted.login();
        boolean token = login.kind() == EndpointSettings.Login.Kind.OAUTH2;
        Set<String> sent = new LinkedHashSet<>(wanted.sentSecrets());
        sent.add(wanted.tls().clientKey());
        sent.add(wanted.security().signKey());
        sent.add(token ? null : login.secret());
        mustBeAllowed(EndpointReach.destination(address), sent);
        if (token) {
            mustBeAllowed(EndpointReach.destination(login.tokenAddress()), Collections.singleton(login.secret()));
        }
        if (wanted.proxy() != null) {
            String proxy = EndpointReach.destination("http://" + wanted.proxy().address());
            mustBeAllowed(proxy, Collections.singleton(wanted.proxy().secret()));
        }
    }

    private void mustBeAllowed(String destination, Set<String> names) {
        List<String> given =
                names.stream().filter(name -> name != null && !name.isBlank()).toList();
        secrets.notFor(destination, given).stream().findFirst().ifPresent(name -> {
            throw elsewhere(name, destination);
        });
    }

    private static String sentence(String text) {
        return Character.toUpperCase(text.charAt(0)) + text.substring(1) + ".";
    }

    /** Returns how messages are written for an endpoint, plain for one that is not known. */
    public MessageStyle style(String name) {
        Endpoint endpoint = name == null ? null : settings.endpoint(name);
        return endpoint == null ? MessageStyle.PLAIN : endpoint.style();
    }
}
