package wirekettle.core.value;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Numbers drawn in order, each once.
 *
 * @param name its name
 * @param gapless whether a number whose item came to nothing is given back and drawn again; else numbers only increase
 * @param start the first number, of each year where it is yearly; at least 0
 * @param pattern how a number is written: <code>HC-{year}-{number:5}</code>; the number alone when null
 * @param yearly whether it begins anew each year
 * @param zone the zone whose calendar says the year, as in {@code Europe/Paris}; UTC when null
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record Series(String name, boolean gapless, long start, String pattern, boolean yearly, String zone) {
    private static final Pattern MARK = Pattern.compile("\\{([a-z]+)(?::(\\d{1,2}))?}");

    /**
     * Tells what is wrong with it.
     *
     * @return what to change, null for nothing
     */
    public String problem() {
        if (start < 0) {
            return "the first number is at least 0";
        }
        try {
            zoned();
        } catch (DateTimeException e) {
            return "there is no zone “" + zone + "”: a zone is written as Europe/Paris";
        }
        if (pattern == null) {
            return yearly ? "it begins anew each year: put {year} into its pattern, or numbers come twice" : null;
        }
        boolean number = false;
        boolean year = false;
        Matcher mark = MARK.matcher(pattern);
        while (mark.find()) {
            number |= mark.group(1).equals("number");
            year |= mark.group(1).equals("year");
            if (!mark.group(1).equals("number") && !mark.group(1).equals("year")) {
                return mark.group() + " means nothing here: a pattern has {number}, {number:5}, {year} and {year:2}";
            }
        }
        if (!number) {
            return "the pattern has no {number}";
        }
        return yearly && !year ? "it begins anew each year: put {year} into its pattern, or numbers come twice" : null;
    }

    private ZoneId zoned() {
        return zone == null || zone.isBlank() ? ZoneOffset.UTC : ZoneId.of(zone);
    }

    /** Returns the year by which a number drawn at an instant counts. */
    public int year(Instant at) {
        return at.atZone(zoned()).getYear();
    }

    /** Returns the year under which the next number is kept: 0 where the series goes on over the years. */
    public int counted(int year) {
        return yearly ? year : 0;
    }

    /**
     * Writes a number.
     *
     * @param year in which it was drawn
     */
    public String text(long number, int year) {
        if (pattern == null || pattern.isBlank()) {
            return Long.toString(number);
        }
        return MARK.matcher(pattern).replaceAll(mark -> {
            boolean ofYear = mark.group(1).equals("year");
            String digits = Long.toString(ofYear ? year : number);
            int width = mark.group(2) == null ? 0 : Integer.parseInt(mark.group(2));
            if (ofYear && width > 0 && width < digits.length()) {
                return digits.substring(digits.length() - width);
            }
            return "0".repeat(Math.max(0, width - digits.length())) + digits;
        });
    }
}
