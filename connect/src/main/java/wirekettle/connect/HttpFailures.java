package wirekettle.connect;

import java.io.IOException;
import java.net.ConnectException;
import java.net.NoRouteToHostException;
import java.net.SocketTimeoutException;
import java.net.URI;
import java.net.UnknownHostException;
import java.util.zip.ZipException;
import javax.net.ssl.SSLException;
import javax.net.ssl.SSLHandshakeException;
import org.apache.hc.client5.http.ClientProtocolException;
import org.apache.hc.client5.http.ConnectTimeoutException;
import org.apache.hc.client5.http.classic.methods.HttpUriRequestBase;
import org.apache.hc.client5.http.impl.TunnelRefusedException;
import org.apache.hc.core5.http.ConnectionRequestTimeoutException;
import org.apache.hc.core5.http.HttpException;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.Transport;
import wirekettle.core.soap.attachments.Multipart;

/**
 * Classifies what went wrong with one call: what was certainly not sent, what was answered, and what is in
 * doubt.
 */
final class HttpFailures {
    private final Transport.Request request;
    private final URI address;
    private final EndpointReach reach;
    private final ServerTrust trust;

    HttpFailures(Transport.Request request, URI address, EndpointReach reach, ServerTrust trust) {
        this.request = request;
        this.address = address;
        this.reach = reach;
        this.trust = trust;
    }

    /**
     * Returns the failure an exception means.
     *
     * @param sending whether sending the request itself had begun
     * @param begun whether the answer had begun
     * @param ended why the call was ended from outside, null when it was not
     */
    CallFailure of(IOException e, HttpUriRequestBase http, boolean sending, boolean begun, CallWatch.Ended ended) {
        IOException unreadable = SentContent.unreadable(http.getEntity());
        if (unreadable != null) {
            return failure(
                    FailureClass.MAPPING,
                    "file not readable",
                    "a file of the message could not be read while it was sent: " + unreadable.getMessage(),
                    true,
                    false);
        }
        if (e instanceof AnswerBody.TooLarge || e instanceof Multipart.RootTooLarge) {
            boolean parts = e instanceof AnswerBody.TooLarge && request.room().attachments() != null;
            long most = parts
                    ? request.limits().maxAttachmentBytes()
                    : request.limits().maxBytes();
            return failure(
                    FailureClass.REPLY,
                    "answer too large",
                    "the answer is larger than " + (most >> 20) + " MB",
                    true,
                    true);
        }
        if (e instanceof AnswerBody.NoRoom) {
            return failure(FailureClass.REPLY, "no memory for the answer", e.getMessage(), true, true);
        }
        if (ended != null) {
            return ended(ended, sending);
        }
        return sending ? afterSending(e, begun) : beforeSending(e);
    }

    private CallFailure ended(CallWatch.Ended ended, boolean sending) {
        return switch (ended) {
            case CANCELLED -> HttpTransport.cancelled(sending);
            case NOT_COMPLETE -> sending ? tooLate() : connectTooLate();
            case NOT_BEGUN -> sending ? silent() : connectTooLate();
        };
    }

    private CallFailure tooLate() {
        return failure(
                FailureClass.TIMEOUT,
                "no whole answer in time",
                "the answer was not complete after " + request.limits().wholeMillis() + " ms",
                true,
                false);
    }

    private CallFailure silent() {
        return failure(
                FailureClass.TIMEOUT,
                "no answer in time",
                "no answer began within " + request.limits().firstByteMillis() + " ms",
                true,
                false);
    }

    private CallFailure connectTooLate() {
        return failure(
                FailureClass.CONNECTION,
                "no connection in time",
                "no connection to " + request.address() + " within "
                        + request.limits().connectMillis() + " ms",
                false,
                false);
    }

    private CallFailure beforeSending(IOException e) {
        if (e instanceof SSLException tls) {
            return refusedTls(tls);
        }
        if (e instanceof ConnectTimeoutException
                || e instanceof ConnectionRequestTimeoutException
                || e instanceof SocketTimeoutException) {
            return connectTooLate();
        }
        if (e instanceof ConnectException || e instanceof NoRouteToHostException) {
            return noConnection("nothing answers there");
        }
        if (e instanceof UnknownHostException) {
            return noConnection("no host has that name");
        }
        if (e instanceof ClientProtocolException && e.getCause() instanceof TunnelRefusedException refused) {
            return failure(
                    FailureClass.CONNECTION,
                    "proxy refused",
                    "the proxy " + reach.settings().proxy().address() + " opens no tunnel to " + address.getHost()
                            + ": " + refused.getMessage() + " (see the endpoint's proxy and its login)",
                    false,
                    false);
        }
        if (e instanceof ClientProtocolException && e.getCause() instanceof HttpException wrong) {
            return failure(
                    FailureClass.MAPPING,
                    "bad request",
                    "the request cannot be sent: " + wrong.getMessage(),
                    false,
                    false);
        }
        // some servers hang up on a caller whose certificate they do not take, without a word
        return trust.askedForClient() ? clientRefused() : noConnection(String.valueOf(e.getMessage()));
    }

    private CallFailure noConnection(String why) {
        return failure(
                FailureClass.CONNECTION,
                "no connection",
                "no connection to " + request.address() + ": " + why,
                false,
                false);
    }

    private CallFailure afterSending(IOException e, boolean begun) {
        if (e instanceof SSLHandshakeException handshake) {
            // with TLS 1.3 a server may refuse the caller's certificate after the first bytes were sent
            return refusedTls(handshake);
        }
        if (begun && (e instanceof ZipException || inGzip(e))) {
            return failure(
                    FailureClass.REPLY,
                    "broken gzip",
                    "the answer says it is gzip but cannot be unpacked: " + e.getMessage(),
                    true,
                    true);
        }
        if (e instanceof SocketTimeoutException) {
            return begun ? tooLate() : silent();
        }
        if (!begun && trust.askedForClient()) {
            return clientRefused();
        }
        return failure(
                FailureClass.CONNECTION,
                "connection lost",
                "the connection was lost before the answer was complete: " + e.getMessage(),
                true,
                false);
    }

    private static boolean inGzip(IOException e) {
        for (StackTraceElement frame : e.getStackTrace()) {
            if (frame.getClassName().startsWith("java.util.zip.")) {
                return e instanceof java.io.EOFException;
            }
        }
        return false;
    }

    private CallFailure clientRefused() {
        String why = reach.settings().tls().clientKey() != null
                ? address.getHost() + " does not accept this endpoint's client certificate"
                : address.getHost() + " wants a client certificate: add a key in Settings, Secrets, and name it in the"
                        + " endpoint's TLS settings";
        return failure(FailureClass.CONNECTION, "client certificate refused", why, false, false);
    }

    private CallFailure refusedTls(SSLException e) {
        CertificateUnknown unknown = trust.refused(HostRule.entry(address));
        String message = String.valueOf(e.getMessage());
        if (unknown != null) {
            return failure(FailureClass.CONNECTION, "certificate refused", unknown.getMessage(), false, false);
        }
        if (message.contains("certificate_required") || message.contains("bad_certificate")) {
            return clientRefused();
        }
        return failure(
                FailureClass.CONNECTION, "no TLS", "no TLS with " + address.getHost() + ": " + message, false, false);
    }

    private static CallFailure failure(FailureClass of, String cause, String message, boolean sent, boolean answered) {
        return new CallFailure(of, cause, message, sent, answered, null);
    }
}
