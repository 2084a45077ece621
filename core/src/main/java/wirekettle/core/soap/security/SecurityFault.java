package wirekettle.core.soap.security;

import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.util.Map;

/**
 * What a fault about a header is really about, in words that tell what to do (Web Services Security: SOAP Message
 * Security 1.1, 12; SOAP 1.1, 4.4.1; SOAP 1.2 part 1, 5.4.8).
 *
 * @param cause short, the same for faults of one kind
 * @param advice what it means and what to do
 */
public record SecurityFault(String cause, String advice) {
    private static final Duration SKEW = Duration.ofSeconds(60);

    /**
     * Returns what a fault is about, or null when it is not about security or a header.
     *
     * @param code the fault's code, subcodes after a slash
     * @param notUnderstood the names of headers the service says it does not understand, empty when it does not say
     * @param headers the reply's HTTP headers, names in lower case
     */
    public static SecurityFault of(String code, String notUnderstood, Map<String, String> headers, Instant now) {
        String last = code.substring(code.lastIndexOf('/') + 1);
        return switch (last) {
            case "MustUnderstand" -> new SecurityFault(
                    "header not understood",
                    "the service does not know " + (notUnderstood.isEmpty() ? "a header" : notUnderstood)
                            + " it was told it must understand: switch that header off for this endpoint, or mark the"
                            + " security header as optional");
            case "FailedAuthentication" -> new SecurityFault(
                    "wrong user name or password",
                    "the service does not accept the user name or the password of the security header");
            case "InvalidSecurityToken", "UnsupportedSecurityToken", "SecurityTokenUnavailable" -> new SecurityFault(
                    "token refused",
                    "the service does not accept this kind of token, or does not know its certificate");
            case "FailedCheck" -> new SecurityFault(
                    "signature refused",
                    "the service finds the signature wrong: the key, or what it is expected to sign");
            case "InvalidSecurity" -> new SecurityFault(
                    "security header refused",
                    "the service misses something in the security header, or finds it wrong: compare what the contract"
                            + " wants with this endpoint's settings");
            case "MessageExpired" -> expired(headers, now);
            default -> null;
        };
    }

    private static SecurityFault expired(Map<String, String> headers, Instant now) {
        try {
            String date = headers.get("date");
            Duration skew = date == null
                    ? Duration.ZERO
                    : Duration.between(
                            now,
                            ZonedDateTime.parse(date, DateTimeFormatter.RFC_1123_DATE_TIME)
                                    .toInstant());
            if (skew.abs().compareTo(SKEW) > 0) {
                return new SecurityFault(
                        "clocks differ",
                        "the service's clock is " + words(skew.abs()) + (skew.isNegative() ? " behind" : " ahead of")
                                + " this machine's: set the clocks right, or give the timestamp a longer lifetime");
            }
        } catch (DateTimeException e) {
            // a date that cannot be read tells nothing
        }
        return new SecurityFault(
                "timestamp refused",
                "the service finds the message's timestamp over or too long, though both clocks agree: change the"
                        + " timestamp's lifetime");
    }

    private static String words(Duration duration) {
        return duration.toMinutes() >= 2 ? duration.toMinutes() + " minutes" : duration.toSeconds() + " seconds";
    }
}
