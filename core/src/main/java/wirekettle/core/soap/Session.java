package wirekettle.core.soap;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.List;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.soap.security.Masking;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.value.Node;
import wirekettle.core.value.XmlText;

/**
 * The session of an endpoint: one token for all callers, signed on for when it is first needed, again when it is near
 * its end or refused. The token is hidden as soon as it is known. Safe for several threads.
 */
public final class Session {
    /** Stands where the token goes: in a header block, an HTTP header, a field, the farewell. */
    public static final String MARK = "{session}";

    /** A token is given up when a tenth of its life is left. */
    private static final double USED = 0.9;

    private final EndpointSettings.Session settings;
    private final ThreadLocal<String> current = new ThreadLocal<>();
    private String token;
    private Instant until;
    private int begun;

    Session(EndpointSettings.Session settings) {
        this.settings = settings;
    }

    /** Returns how often it was signed on for. */
    public synchronized int begun() {
        return begun;
    }

    /** Tells whether a failed call says that the session is not accepted; {@code status} is 0 when none was seen. */
    boolean refused(CallFailure failure, int status) {
        return failure.sent() && settings.refused().holds(failure, status);
    }

    /**
     * Returns the token; signs on when there is none. Others who ask meanwhile wait for the same.
     *
     * @throws CallFailure when there can be no session: nothing of the caller's was sent
     */
    synchronized String token(Transport transport, EndpointReach reach, Transport.Limits limits) throws CallFailure {
        Instant now = reach.clock().instant();
        if (token == null || until != null && !now.isBefore(until)) {
            signOn(transport, reach, limits, now);
        }
        return token;
    }

    /**
     * Begins a session, where there is none, to see whether it can be.
     *
     * @return until when it is used, null for until it is refused
     * @throws CallFailure when there can be none
     */
    public synchronized Instant tried(Transport transport, EndpointReach reach, Transport.Limits limits)
            throws CallFailure {
        token(transport, reach, limits);
        return until;
    }

    /** Notes that a token is not accepted; one that has taken its place stays. */
    synchronized void refused(String refused) {
        if (refused.equals(token)) {
            token = null;
        }
    }

    private void signOn(Transport transport, EndpointReach reach, Transport.Limits limits, Instant now)
            throws CallFailure {
        token = null;
        Node reply;
        try {
            reply = sent(transport, reach, limits, settings.action(), settings.signOn());
        } catch (CallFailure failure) {
            throw none(failure.getMessage());
        } catch (Secrets.SecretMissing e) {
            throw none(e.getMessage());
        }
        Node its = at(reply, settings.token());
        if (its == null || its.text().isBlank()) {
            throw none("the answer to signing on has nothing at " + settings.token());
        }
        Node lives = settings.lifetimeAt() == null ? null : at(reply, settings.lifetimeAt());
        Long seconds = settings.lifetimeSeconds() == null ? null : Long.valueOf(settings.lifetimeSeconds());
        try {
            seconds =
                    lives == null ? seconds : Long.valueOf(lives.text().strip().replaceAll("\\..*", ""));
        } catch (NumberFormatException e) {
            throw none("the session's life, “" + lives.text() + "”, is no number of seconds");
        }
        token = its.text().strip();
        until = seconds == null ? null : now.plusMillis((long) (seconds * 1_000 * USED));
        reach.masking().hide(token);
        begun++;
    }

    private static CallFailure none(String why) {
        return new CallFailure(
                FailureClass.CONNECTION, "no session", "no session could be begun: " + why, false, false, null);
    }

    private Node sent(Transport transport, EndpointReach reach, Transport.Limits limits, String action, String body)
            throws CallFailure {
        SoapVersion version = settings.soap12() ? SoapVersion.SOAP_12 : SoapVersion.SOAP_11;
        String envelope = "<s:Envelope xmlns:s=\"" + version.envelope() + "\"><s:Body>"
                + SecretMarks.filled(filled(body), reach.secrets()) + "</s:Body></s:Envelope>";
        // what comes back is read in clear: a token may be the same as one that is hidden
        EndpointReach own = reach.alone(new Masking());
        Caller.Result result = SoapCaller.bare(transport, own, version, action == null ? "" : action, limits)
                .call(envelope.getBytes(StandardCharsets.UTF_8));
        if (result.failure() != null) {
            throw result.failure();
        }
        List<Node> reply = result.reply().body();
        return reply.isEmpty() ? Node.leaf(wirekettle.core.value.Name.of("empty"), "") : reply.get(0);
    }

    /** Returns what stands at a path of names below the reply's element, which may be named first. */
    private static Node at(Node reply, String path) {
        String[] steps =
                String.valueOf(path).strip().replaceFirst("^\\$reply/", "").split("/");
        Node at = reply;
        for (int i = 0; i < steps.length && at != null; i++) {
            Node next = at.child(steps[i]);
            boolean itself = i == 0 && next == null && at.name().local().equals(steps[i]);
            at = itself ? at : next;
        }
        return at;
    }

    /** Lets the calls of this thread have a token. */
    void enter(String its) {
        current.set(its);
    }

    /** Ends what {@link #enter} began. */
    void leave() {
        current.remove();
    }

    /** Returns the token of the call this thread makes, null when it makes none in a session. */
    String current() {
        return current.get();
    }

    /** Returns XML text with the token of this thread's call in it, escaped. */
    String filled(String xml) {
        String its = current.get();
        return its == null ? xml : xml.replace(MARK, XmlText.escape(its));
    }

    /**
     * Says farewell, where the settings say how: the session is over. What fails is of no more interest.
     *
     * @param transport what reaches the endpoint
     */
    public synchronized void farewell(Transport transport, EndpointReach reach, Transport.Limits limits) {
        if (token == null || settings.farewell() == null) {
            return;
        }
        enter(token);
        try {
            sent(transport, reach, limits, settings.farewellAction(), settings.farewell());
        } catch (CallFailure | Secrets.SecretMissing e) {
            // it ends by itself
        } finally {
            leave();
            token = null;
        }
    }
}
