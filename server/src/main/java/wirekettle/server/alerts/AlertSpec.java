package wirekettle.server.alerts;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.List;

/**
 * When a rule tells somebody, and whom. What does not belong to its kind is null.
 *
 * @param count rejected: more than so many records
 * @param percent rejected: more than this share of the records; long: this share of the usual time, as 200
 * @param minutes in-doubt, on-hold, long: for so many minutes
 * @param by absent, no-file: the time of the day, as 07:00
 * @param zone absent, no-file, quiet hours: the zone of the times
 * @param days absent, no-file: the working days on which it is expected, null for every day
 * @param daysBefore certificate: so many days before its end
 * @param hours watermark: so many hours without a move
 * @param mail addresses mails go to
 * @param hook the address a web hook posts to, or null
 * @param quietFrom from when on mails and hooks wait, as 22:00; null for never
 * @param quietTo until when
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record AlertSpec(
        Integer count,
        Integer percent,
        Integer minutes,
        String by,
        String zone,
        String days,
        Integer daysBefore,
        Integer hours,
        List<String> mail,
        String hook,
        String quietFrom,
        String quietTo) {
    /** Keeps its own copy. */
    public AlertSpec {
        mail = mail == null ? List.of() : List.copyOf(mail);
    }
}
