package wirekettle.connect;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import wirekettle.connect.Probe.Step;
import wirekettle.connect.queue.Broker;
import wirekettle.connect.queue.QueueWriter;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.Envelopes;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.SoapCaller;
import wirekettle.core.soap.Transport;

/**
 * Checks step by step which parts of an endpoint's settings work: name, connection, TLS, HTTP with its login, SOAP with
 * its security, and its session; of a broker AMQP with its login.
 */
public final class EndpointTest {
    private EndpointTest() {}

    /**
     * Tries an endpoint; nothing is asked of it that could change data.
     *
     * @param version the SOAP version of its port, null for a port that speaks plain HTTP
     */
    public static Probe of(HostRule hosts, EndpointReach shared, SoapVersion version) {
        EndpointReach reach = shared.afresh();
        Transport.Limits limits = reach.settings().limits(Transport.Limits.DEFAULT);
        Probe probe = Probe.of(hosts, reach, limits.connectMillis());
        if (!probe.works()) {
            return probe;
        }
        List<Step> steps = new ArrayList<>(probe.steps());
        long from = System.nanoTime();
        if (EndpointReach.broker(reach.address())) {
            steps.add(broker(hosts, reach, from));
            return new Probe(List.copyOf(steps), probe.shown());
        }
        Transport transport = new HttpTransport(hosts, reach);
        if (version == null) {
            steps.add(plain(transport, reach, limits, from));
        } else {
            String envelope = Envelopes.write(version, List.of(), List.of(), false);
            Caller.Result result =
                    SoapCaller.probe(transport, reach, version, limits).call(envelope.getBytes(StandardCharsets.UTF_8));
            judge(steps, result, (System.nanoTime() - from) / 1_000_000);
        }
        if (reach.session() != null && steps.get(steps.size() - 1).name().equals(version == null ? "http" : "soap")) {
            steps.add(session(transport, reach, limits));
        }
        return new Probe(List.copyOf(steps), probe.shown());
    }

    private static Step broker(HostRule hosts, EndpointReach reach, long from) {
        try (QueueWriter writer = new Broker(hosts, reach).writer()) {
            return new Step("amqp", true, "a broker answers and lets us in", (System.nanoTime() - from) / 1_000_000);
        } catch (IOException e) {
            return new Step("amqp", false, e.getMessage(), (System.nanoTime() - from) / 1_000_000);
        }
    }

    /** Signs on, as the first call would, and says farewell. */
    private static Step session(Transport transport, EndpointReach reach, Transport.Limits limits) {
        long from = System.nanoTime();
        try {
            Instant until = reach.session().tried(transport, reach, limits);
            long millis = (System.nanoTime() - from) / 1_000_000;
            reach.session().farewell(transport, reach, limits);
            return new Step(
                    "session",
                    true,
                    "a session can be begun; one is used " + (until == null ? "until it is refused" : "until " + until),
                    millis);
        } catch (CallFailure e) {
            return new Step("session", false, e.getMessage(), (System.nanoTime() - from) / 1_000_000);
        }
    }

    private static Step plain(Transport transport, EndpointReach reach, Transport.Limits limits, long from) {
        try {
            Transport.Answer answer = transport.send(
                    new Transport.Request("GET", reach.address(), Map.of("Accept", "*/*"), new byte[0], limits));
            return http(answer.status(), (System.nanoTime() - from) / 1_000_000);
        } catch (CallFailure e) {
            return new Step("http", false, e.getMessage(), (System.nanoTime() - from) / 1_000_000);
        }
    }

    private static void judge(List<Step> steps, Caller.Result result, long millis) {
        CallFailure failure = result.failure();
        if (result.answer() == null) {
            steps.add(new Step("http", false, failure.getMessage(), millis));
            return;
        }
        Step http = http(result.answer().status(), result.answer().firstByteMillis());
        steps.add(http);
        if (!http.works()) {
            return;
        }
        String about = "a service of SOAP answers";
        if (failure == null) {
            steps.add(new Step("soap", true, about, millis));
        } else if (failure.failureClass() != FailureClass.FAULT) {
            steps.add(new Step("soap", false, failure.getMessage(), millis));
        } else if (failure.causeLabel().equals(failure.fault().label())) {
            // a fault that is not about security: the empty body was refused, as it should be
            steps.add(new Step(
                    "soap",
                    true,
                    about + "; it refuses the empty message of this test: " + failure.getMessage(),
                    millis));
        } else {
            steps.add(new Step("soap", false, failure.getMessage(), millis));
        }
    }

    private static Step http(int status, long millis) {
        String said = "HTTP " + status;
        return switch (status) {
            case 401 -> new Step("http", false, said + ": it wants a login, or does not accept this one", millis);
            case 403 -> new Step("http", false, said + ": this login may not call it", millis);
            case 404, 410 -> new Step("http", false, said + ": nothing is at this path; correct the address", millis);
            case 407 -> new Step(
                    "http", false, said + ": the proxy wants a login, or does not accept this one", millis);
            case 502, 503, 504 -> new Step("http", false, said + ": the service behind it is not there now", millis);
            default -> new Step(
                    "http",
                    status / 100 != 3,
                    said + (status / 100 == 3 ? ": it sends callers elsewhere; correct the address" : ""),
                    millis);
        };
    }
}
