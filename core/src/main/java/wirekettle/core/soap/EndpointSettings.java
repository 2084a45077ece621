package wirekettle.core.soap;

import com.fasterxml.jackson.annotation.JsonIgnore;
import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonProperty;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;

/**
 * An endpoint's settings beyond its address; everything may be left out. Secrets are here by name only.
 *
 * @param limits time and size limits, null for the usual ones
 * @param proxy the proxy on the way, null for none
 * @param charset the charset requests are written in, null for UTF-8
 * @param headers HTTP headers sent with every request
 * @param soapHeaders SOAP header blocks sent with every request that has none of that name
 * @param login how the caller authenticates over HTTP
 * @param tls whom to trust and which key to show
 * @param security what WS-Security adds and expects
 * @param addressing whether WS-Addressing 1.0 headers are sent
 * @param mtom whether binary content travels beside the envelope (MTOM)
 * @param down which answers count as the endpoint being down, beside no connection
 * @param session the session its calls are made in, null for none
 */
@JsonInclude(JsonInclude.Include.NON_DEFAULT)
public record EndpointSettings(
        Limits limits,
        Proxy proxy,
        String charset,
        List<Header> headers,
        List<String> soapHeaders,
        Login login,
        Tls tls,
        Security security,
        boolean addressing,
        boolean mtom,
        Down down,
        Session session) {
    /** Nothing special. */
    public static final EndpointSettings PLAIN =
            new EndpointSettings(null, null, null, null, null, null, null, null, false, false);

    /** Settings without a session. */
    public EndpointSettings(
            Limits limits,
            Proxy proxy,
            String charset,
            List<Header> headers,
            List<String> soapHeaders,
            Login login,
            Tls tls,
            Security security,
            boolean addressing,
            boolean mtom,
            Down down) {
        this(limits, proxy, charset, headers, soapHeaders, login, tls, security, addressing, mtom, down, null);
    }

    /** Settings with which only an endpoint that cannot be reached is down. */
    public EndpointSettings(
            Limits limits,
            Proxy proxy,
            String charset,
            List<Header> headers,
            List<String> soapHeaders,
            Login login,
            Tls tls,
            Security security,
            boolean addressing,
            boolean mtom) {
        this(limits, proxy, charset, headers, soapHeaders, login, tls, security, addressing, mtom, null);
    }

    /** Fills in what may be left out. */
    public EndpointSettings {
        headers = headers == null ? List.of() : List.copyOf(headers);
        soapHeaders = soapHeaders == null ? List.of() : List.copyOf(soapHeaders);
        login = login == null ? Login.NONE : login;
        tls = tls == null ? Tls.USUAL : tls;
        security = security == null ? Security.NONE : security;
        charset = charset == null || charset.isBlank() ? null : charset.strip();
        down = down == null ? Down.UNREACHED : down;
    }

    /**
     * Which answers count as the endpoint being down: records then wait for it instead of failing. No connection always
     * counts.
     *
     * @param statuses HTTP statuses, as 503
     * @param faults fault codes, or names of elements in the detail
     * @param text a text in the reason of the failure; null for none
     */
    @JsonInclude(JsonInclude.Include.NON_EMPTY)
    public record Down(List<Integer> statuses, List<String> faults, String text) {
        /** Only no connection counts. */
        public static final Down UNREACHED = new Down(null, null, null);

        /** Fills in what may be left out. */
        public Down {
            statuses = statuses == null ? List.of() : List.copyOf(statuses);
            faults = faults == null ? List.of() : List.copyOf(faults);
            text = text == null || text.isBlank() ? null : text.strip();
        }

        /** Tells whether a failed call means that the endpoint is down; {@code status} is 0 when none was seen. */
        public boolean holds(CallFailure failure, int status) {
            if (failure.failureClass() == FailureClass.CONNECTION && !failure.sent() || statuses.contains(status)) {
                return true;
            }
            SoapFault fault = failure.fault();
            boolean named = fault != null && (faults.contains(fault.code()) || faults.contains(fault.label()));
            String said = fault == null ? failure.getMessage() : fault.reason();
            return named || text != null && said != null && said.contains(text);
        }
    }

    /**
     * The session calls are made in: a message signs on, the answer has a token, which stands wherever a header block,
     * an HTTP header or a field says {@code {session}}.
     *
     * @param operation the operation that signs on, for people; null when the message was written by hand
     * @param soap12 whether sign-on and farewell are SOAP 1.2 messages
     * @param action the action of the message that signs on
     * @param signOn the body of the message that signs on, as XML; {@code {secret:name}} stands for a secret
     * @param token the path of names to the token in the reply
     * @param lifetimeSeconds how long a token lives, null for until it is refused
     * @param lifetimeAt the path of names to the seconds it lives in the reply, null for none
     * @param refused which answers say that the session is not accepted
     * @param farewellAction the action of the message that ends it
     * @param farewell the body of the message that ends it, null for none
     */
    @JsonInclude(JsonInclude.Include.NON_DEFAULT)
    public record Session(
            String operation,
            boolean soap12,
            String action,
            String signOn,
            String token,
            Integer lifetimeSeconds,
            String lifetimeAt,
            Down refused,
            String farewellAction,
            String farewell) {
        /** Fills in what may be left out. */
        public Session {
            signOn = signOn == null ? "" : signOn;
            lifetimeAt = lifetimeAt == null || lifetimeAt.isBlank() ? null : lifetimeAt.strip();
            farewell = farewell == null || farewell.isBlank() ? null : farewell;
            refused = refused == null ? Down.UNREACHED : refused;
        }

        private List<String> secrets() {
            List<String> names = new ArrayList<>(SecretMarks.names(signOn));
            names.addAll(farewell == null ? List.of() : SecretMarks.names(farewell));
            return names;
        }
    }

    /**
     * Limits of one call; null keeps the usual one.
     *
     * @param connectMillis until connected
     * @param firstByteMillis until the answer begins
     * @param wholeMillis until the answer is complete
     * @param maxMegabytes largest answer
     * @param maxAttachmentMegabytes largest answer whose attachments are written to files
     * @param atOnce how many calls of all runs together may be on the wire at one time
     * @param perSecond how many calls of all runs together may leave a second
     * @param runsPercent the share of these two that runs may have, 1 to 100: the rest is left for other callers
     * @param hours when runs may call, null for always
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record Limits(
            Integer connectMillis,
            Integer firstByteMillis,
            Integer wholeMillis,
            Integer maxMegabytes,
            Integer maxAttachmentMegabytes,
            Integer atOnce,
            Double perSecond,
            Integer runsPercent,
            EndpointHours hours) {
        /** Limits of single calls only. */
        public Limits(
                Integer connectMillis,
                Integer firstByteMillis,
                Integer wholeMillis,
                Integer maxMegabytes,
                Integer maxAttachmentMegabytes) {
            this(
                    connectMillis,
                    firstByteMillis,
                    wholeMillis,
                    maxMegabytes,
                    maxAttachmentMegabytes,
                    null,
                    null,
                    null,
                    null);
        }

        /** Returns these limits where they are set, else those given. */
        public Transport.Limits over(Transport.Limits usual) {
            return new Transport.Limits(
                    connectMillis == null ? usual.connectMillis() : connectMillis,
                    firstByteMillis == null ? usual.firstByteMillis() : firstByteMillis,
                    wholeMillis == null ? usual.wholeMillis() : wholeMillis,
                    maxMegabytes == null ? usual.maxBytes() : (long) maxMegabytes << 20,
                    maxAttachmentMegabytes == null ? usual.maxAttachmentBytes() : (long) maxAttachmentMegabytes << 20);
        }
    }

    /** A proxy as host:port, and the login it wants; secret names a password. */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record Proxy(String address, String user, String secret) {}

    /** An HTTP header with a value, or with the value of a secret. */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record Header(String name, String value, String secret) {}

    /**
     * How the caller authenticates over HTTP.
     *
     * @param kind none, basic or digest (RFC 7617, RFC 7616), bearer (RFC 6750), or client credentials of OAuth 2 (RFC
     *     6749, 4.4)
     * @param user the name, or the client's id
     * @param secret names the password, token or client secret
     * @param tokenAddress where tokens come from, for OAuth 2
     * @param scope the scope asked for, for OAuth 2
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record Login(Kind kind, String user, String secret, String tokenAddress, String scope) {
        /** The kinds of login. */
        public enum Kind {
            /** None. */
            @JsonProperty("none")
            NONE,
            /** Name and password with every request. */
            @JsonProperty("basic")
            BASIC,
            /** A proof of the password, on the server's challenge. */
            @JsonProperty("digest")
            DIGEST,
            /** A token. */
            @JsonProperty("bearer")
            BEARER,
            /** A token fetched with the client's own credentials. */
            @JsonProperty("oauth2")
            OAUTH2
        }

        /** No login. */
        public static final Login NONE = new Login(Kind.NONE, null, null, null, null);

        /** Fills in what may be left out. */
        public Login {
            kind = kind == null ? Kind.NONE : kind;
        }
    }

    /**
     * Which certificates to trust and which client key to present.
     *
     * @param trusted certificates as PEM text, trusted beyond those the machine knows
     * @param fingerprints SHA-256 fingerprints of server certificates trusted as they are
     * @param clientKey names the secret with the client's key and certificate
     * @param anyHostName whether a certificate for another name is accepted
     */
    @JsonInclude(JsonInclude.Include.NON_DEFAULT)
    public record Tls(List<String> trusted, List<String> fingerprints, String clientKey, boolean anyHostName) {
        /** What the machine trusts, no key. */
        public static final Tls USUAL = new Tls(null, null, null, false);

        /** Fills in what may be left out. */
        public Tls {
            trusted = trusted == null ? List.of() : List.copyOf(trusted);
            fingerprints = fingerprints == null ? List.of() : List.copyOf(fingerprints);
            clientKey = clientKey == null || clientKey.isBlank() ? null : clientKey;
        }
    }

    /**
     * What WS-Security adds and expects (Web Services Security: SOAP Message Security 1.1).
     *
     * @param token how a user name travels: none, as text, or as a digest with nonce and time
     * @param user the user name
     * @param secret names its password
     * @param lifetimeSeconds how long the message's timestamp is valid, null for no timestamp
     * @param signKey names the secret with the key body and timestamp are signed with, null for no signature
     * @param verifyReplies certificates, as PEM text, a reply must be signed with; empty to accept unsigned replies
     * @param optional whether a service that knows nothing of WS-Security may ignore the header
     */
    @JsonInclude(JsonInclude.Include.NON_DEFAULT)
    public record Security(
            Token token,
            String user,
            String secret,
            Integer lifetimeSeconds,
            String signKey,
            List<String> verifyReplies,
            boolean optional) {
        /** How a user name travels. */
        public enum Token {
            /** Not at all. */
            @JsonProperty("none")
            NONE,
            /** With the password as text (UsernameToken Profile 1.1, 3.1). */
            @JsonProperty("text")
            TEXT,
            /** With a digest of password, nonce and time (UsernameToken Profile 1.1, 3.1). */
            @JsonProperty("digest")
            DIGEST
        }

        /** Nothing. */
        public static final Security NONE = new Security(Token.NONE, null, null, null, null, null, false);

        /** Fills in what may be left out. */
        public Security {
            token = token == null ? Token.NONE : token;
            verifyReplies = verifyReplies == null ? List.of() : List.copyOf(verifyReplies);
            signKey = signKey == null || signKey.isBlank() ? null : signKey;
        }

        /** Tells whether a security header is sent. */
        @JsonIgnore
        public boolean sends() {
            return token != Token.NONE || lifetimeSeconds != null || signKey != null;
        }
    }

    /** Returns the names of all secrets these settings use, in the order they stand. */
    @JsonIgnore
    public Set<String> secrets() {
        List<String> names = new ArrayList<>();
        names.add(proxy == null ? null : proxy.secret());
        headers.forEach(header -> names.add(header.secret()));
        soapHeaders.forEach(block -> names.addAll(SecretMarks.names(block)));
        names.addAll(session == null ? List.of() : session.secrets());
        names.add(login.secret());
        names.add(tls.clientKey());
        names.add(security.secret());
        names.add(security.signKey());
        Set<String> used = new LinkedHashSet<>(names);
        used.removeIf(name -> name == null || name.isBlank());
        return used;
    }

    /** Returns the names of the secrets that are sent to the endpoint itself, keys and logins apart. */
    @JsonIgnore
    public Set<String> sentSecrets() {
        Set<String> names = new LinkedHashSet<>(secrets());
        names.remove(tls.clientKey());
        names.remove(security.signKey());
        if (proxy != null) {
            names.remove(proxy.secret());
        }
        names.remove(login.secret());
        headers.forEach(header -> names.add(header.secret()));
        soapHeaders.forEach(block -> names.addAll(SecretMarks.names(block)));
        names.add(security.secret());
        names.removeIf(name -> name == null || name.isBlank());
        return names;
    }

    /**
     * Returns these settings for a place nothing is proved to, as a simulator: no key is shown or signed with, no token
     * fetched, no proxy on the way.
     */
    public EndpointSettings withoutProofs() {
        Tls open = new Tls(tls.trusted(), tls.fingerprints(), null, tls.anyHostName());
        Security unsigned = new Security(
                security.token(),
                security.user(),
                security.secret(),
                security.lifetimeSeconds(),
                null,
                null,
                security.optional());
        return new EndpointSettings(
                limits,
                null,
                charset,
                headers,
                soapHeaders,
                login.kind() == Login.Kind.OAUTH2 ? Login.NONE : login,
                open,
                unsigned,
                addressing,
                mtom,
                down,
                session);
    }

    /** Returns these settings without a session, and without what carries its token. */
    EndpointSettings withoutSession() {
        return new EndpointSettings(
                limits,
                proxy,
                charset,
                headers.stream()
                        .filter(header ->
                                header.value() == null || !header.value().contains(wirekettle.core.soap.Session.MARK))
                        .toList(),
                soapHeaders.stream()
                        .filter(block -> !block.contains(wirekettle.core.soap.Session.MARK))
                        .toList(),
                login,
                tls,
                security,
                addressing,
                mtom,
                down);
    }

    /** Returns the limits of a call whose own are given; what is set here wins. */
    public Transport.Limits limits(Transport.Limits usual) {
        return limits == null ? usual : limits.over(usual);
    }
}
