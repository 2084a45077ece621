package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;

/**
 * When a run stops by itself: too many of its last records were rejected. What is on its way then is waited for.
 *
 * @param rejected how many of the last records, 1 or more; null where a share is said
 * @param percent which share of them, 1 to 100; null where a number is said
 * @param last how many records are looked at, 1 to 100,000: a share is looked at once there are so many
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record Brake(Integer rejected, Integer percent, int last) {
    /** How many records can be looked at. */
    public static final int MOST = 100_000;

    /** Returns what is wrong with it, null when it is sound. */
    public String problem() {
        if ((rejected == null) == (percent == null)) {
            return "the brake needs either a number of rejected records or a percentage";
        }
        if (last < 1 || last > MOST) {
            return "the brake looks at 1 to " + MOST + " last records";
        }
        if (rejected != null && (rejected < 1 || rejected > last)) {
            return "the brake's number of rejected records lies between 1 and the " + last + " it looks at";
        }
        return percent != null && (percent < 1 || percent > 100) ? "the brake's percentage is 1 to 100" : null;
    }

    /** Returns how many rejected records among the last ones stop a run. */
    public int enough() {
        return rejected != null ? rejected : Math.max(1, (int) Math.ceil(last * (percent / 100.0)));
    }

    /** Returns it in words. */
    public String words() {
        return (rejected != null ? rejected + "" : percent + " %") + " of the last " + last;
    }
}
