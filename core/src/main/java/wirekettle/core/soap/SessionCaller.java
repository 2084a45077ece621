package wirekettle.core.soap;

import java.nio.charset.StandardCharsets;
import wirekettle.core.value.XmlText;

/**
 * Makes calls in the session of their endpoint. A call that is refused because of the session had no effect: it is made
 * once more in a new one; refused again, the endpoint counts as down.
 */
final class SessionCaller implements Caller {
    private final Caller inner;
    private final Session session;
    private final Transport transport;
    private final EndpointReach reach;
    private final Transport.Limits limits;

    SessionCaller(Caller inner, Session session, Transport transport, EndpointReach reach, Transport.Limits limits) {
        this.inner = inner;
        this.session = session;
        this.transport = transport;
        this.reach = reach;
        this.limits = limits;
    }

    @Override
    public long bytes(byte[] message) {
        return inner.bytes(message);
    }

    @Override
    public Result call(byte[] message, CallRoom room) {
        try {
            String token = session.token(transport, reach, limits);
            Result first = in(token, message, room);
            if (!refused(first)) {
                return first;
            }
            session.refused(token);
            String next = session.token(transport, reach, limits);
            Result second = in(next, message, room);
            if (!refused(second)) {
                return second;
            }
            session.refused(next);
            return failed(
                    second,
                    new CallFailure(
                            FailureClass.CONNECTION,
                            "session refused",
                            "a new session is refused too: " + second.failure().getMessage(),
                            false,
                            false,
                            null));
        } catch (CallFailure failure) {
            byte[] shown = reach.masking().mask(message);
            return new Result(shown, null, java.util.List.of(), null, null, failure.masked(reach.masking()), null);
        }
    }

    private boolean refused(Result result) {
        int status = result.answer() == null ? 0 : result.answer().status();
        return result.failure() != null && session.refused(result.failure(), status);
    }

    private static Result failed(Result its, CallFailure failure) {
        return new Result(its.sent(), its.received(), its.attachments(), its.answer(), null, failure, its.note());
    }

    private Result in(String token, byte[] message, CallRoom room) {
        session.enter(token);
        try {
            return inner.call(filled(message, token), room);
        } finally {
            session.leave();
        }
    }

    /** Puts the token where a field of the message wants it. */
    private static byte[] filled(byte[] message, String token) {
        byte[] mark = Session.MARK.getBytes(StandardCharsets.UTF_8);
        for (int i = 0; i + mark.length <= message.length; i++) {
            if (message[i] == mark[0] && java.util.Arrays.equals(message, i, i + mark.length, mark, 0, mark.length)) {
                return new String(message, StandardCharsets.UTF_8)
                        .replace(Session.MARK, XmlText.escape(token))
                        .getBytes(StandardCharsets.UTF_8);
            }
        }
        return message;
    }
}
