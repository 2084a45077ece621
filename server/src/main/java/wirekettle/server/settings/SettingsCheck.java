package wirekettle.server.settings;

import java.io.ByteArrayInputStream;
import java.nio.charset.Charset;
import java.nio.charset.IllegalCharsetNameException;
import java.nio.charset.StandardCharsets;
import java.nio.charset.UnsupportedCharsetException;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.EndpointSettings.Login;
import wirekettle.core.soap.EndpointSettings.Security;
import wirekettle.core.soap.security.Certificates;
import wirekettle.core.soap.security.KeyUnreadable;
import wirekettle.core.value.NodeReader;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/** Finds what is wrong with an endpoint's settings before they are kept. */
final class SettingsCheck {
    // what the HTTP client sets itself
    private static final Set<String> RESERVED =
            Set.of("host", "connection", "content-length", "expect", "upgrade", "transfer-encoding");

    private SettingsCheck() {}

    /** Returns what is wrong, a sentence each; empty when nothing is. */
    static List<String> problems(EndpointSettings settings) {
        List<String> problems = new ArrayList<>();
        if (settings.limits() != null) {
            limits(settings.limits(), problems);
        }
        if (settings.proxy() != null
                && set(settings.proxy().address())
                && !settings.proxy().address().matches("[^/:\\s]+:\\d{1,5}")) {
            problems.add("“" + settings.proxy().address() + "” is no proxy: give host:port.");
        }
        if (settings.charset() != null) {
            try {
                Charset.forName(settings.charset());
            } catch (IllegalCharsetNameException | UnsupportedCharsetException e) {
                problems.add(
                        "“" + settings.charset() + "” is no charset known here: UTF-8, ISO-8859-1 and UTF-16 are.");
            }
        }
        settings.down()
                .statuses()
                .forEach(status -> range("An HTTP status that counts as down", status, 300, 599, "", problems));
        settings.headers().forEach(header -> header(header, problems));
        settings.soapHeaders().forEach(block -> block(block, problems));
        session(settings.session(), problems);
        login(settings.login(), problems);
        certificates("A trusted certificate", settings.tls().trusted(), problems);
        security(settings.security(), problems);
        return problems;
    }

    private static boolean set(String text) {
        return text != null && !text.isBlank();
    }

    private static void limits(EndpointSettings.Limits limits, List<String> problems) {
        range("The share of runs", limits.runsPercent(), 1, 100, "percent", problems);
        if (limits.hours() != null && limits.hours().problem() != null) {
            problems.add("About its hours: " + limits.hours().problem() + ".");
        }
        range("The time to connect", limits.connectMillis(), 50, 120_000, "ms", problems);
        range("The time until the answer begins", limits.firstByteMillis(), 50, 3_600_000, "ms", problems);
        range("The time until the answer is complete", limits.wholeMillis(), 50, 3_600_000, "ms", problems);
        range("The largest answer", limits.maxMegabytes(), 1, 16, "MB", problems);
        range("The largest answer with attachments", limits.maxAttachmentMegabytes(), 1, 10_240, "MB", problems);
    }

    private static void range(String what, Integer value, int least, int most, String unit, List<String> problems) {
        if (value != null && (value < least || value > most)) {
            problems.add(what + " is " + least + " to " + most + (unit.isEmpty() ? "" : " " + unit) + ", not " + value
                    + ".");
        }
    }

    private static void header(EndpointSettings.Header header, List<String> problems) {
        String name = header.name() == null ? "" : header.name();
        if (!name.matches("[!#$%&'*+.^_`|~0-9A-Za-z-]+")) {
            problems.add("“" + name + "” is no name of an HTTP header.");
        } else if (RESERVED.contains(name.toLowerCase(Locale.ROOT))) {
            problems.add("The HTTP header " + name + " is set by the connection itself.");
        }
        if (!set(header.secret()) && (header.value() == null || header.value().matches("(?s).*[\\r\\n].*"))) {
            problems.add("The HTTP header " + name + " needs a value on one line, or a secret.");
        }
    }

    private static void block(String block, List<String> problems) {
        try {
            byte[] xml = block.replaceAll("\\{secret:[^{}]+}", "x").getBytes(StandardCharsets.UTF_8);
            if (NodeReader.read(new ByteArrayInputStream(xml), "header", XmlLimits.MESSAGES)
                    .name()
                    .namespace()
                    .isEmpty()) {
                problems.add("A SOAP header block needs a namespace (SOAP 1.1, 4.2.1).");
            }
        } catch (XmlProblem e) {
            problems.add("A SOAP header block is no XML at line " + e.line() + " column " + e.column() + ": "
                    + e.getMessage() + ".");
        }
    }

    private static void session(EndpointSettings.Session session, List<String> problems) {
        if (session == null) {
            return;
        }
        message("The message that signs on", session.signOn(), problems);
        if (session.farewell() != null) {
            message("The farewell", session.farewell(), problems);
        }
        if (!set(session.token())) {
            problems.add("Say where the token stands in the reply to signing on: the names of the fields, as token or"
                    + " session/token.");
        }
        range("The life of a session", session.lifetimeSeconds(), 1, 604_800, "seconds", problems);
        session.refused()
                .statuses()
                .forEach(status -> range("An HTTP status that refuses a session", status, 300, 599, "", problems));
    }

    private static void message(String what, String body, List<String> problems) {
        try {
            byte[] xml = body.replaceAll("\\{secret:[^{}]+}", "x").getBytes(StandardCharsets.UTF_8);
            NodeReader.read(new ByteArrayInputStream(xml), "body", XmlLimits.MESSAGES);
        } catch (XmlProblem e) {
            problems.add(
                    what + " is no XML at line " + e.line() + " column " + e.column() + ": " + e.getMessage() + ".");
        }
    }

    private static void login(Login login, List<String> problems) {
        boolean named = login.kind() == Login.Kind.BASIC
                || login.kind() == Login.Kind.DIGEST
                || login.kind() == Login.Kind.OAUTH2;
        if (named && !set(login.user())) {
            problems.add(
                    login.kind() == Login.Kind.OAUTH2 ? "The client's id is missing." : "The user name is missing.");
        }
        if (login.kind() != Login.Kind.NONE && !set(login.secret())) {
            problems.add("Choose the secret the login uses.");
        }
        if (login.kind() == Login.Kind.OAUTH2
                && (login.tokenAddress() == null || !login.tokenAddress().matches("(?i)https?://.+"))) {
            problems.add("The address tokens come from is missing.");
        }
    }

    private static void security(Security security, List<String> problems) {
        if (security.token() != Security.Token.NONE && (!set(security.user()) || !set(security.secret()))) {
            problems.add("A user name token needs a user name and a secret.");
        }
        range("The timestamp's lifetime", security.lifetimeSeconds(), 1, 86_400, "seconds", problems);
        certificates("The certificate replies are signed with", security.verifyReplies(), problems);
    }

    private static void certificates(String what, List<String> pems, List<String> problems) {
        try {
            Certificates.ofPems(pems);
        } catch (KeyUnreadable e) {
            problems.add(what + ": " + e.getMessage() + ".");
        }
    }
}
