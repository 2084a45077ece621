package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonValue;
import java.util.Locale;

/**
 * How a Call asks for page after page. What a page is asked with is in reach of its fills as {@code $page/number},
 * {@code $page/offset} and {@code $page/token}; the first page has no token.
 *
 * @param by what tells that there is another page
 * @param rows a path to the repeated element of the reply, {@code $reply/list/loan}: those of all pages come together
 * @param next XPath 3.1 over the reply that gives the token of the next page, nothing at the last one
 * @param start the number of the first page, or the offset of the first row; 1 or 0 when null
 * @param size how many rows a full page has: one with fewer is the last; null when that is not known
 * @param until XPath 3.1 over the reply: this page is the last; null for never
 * @param most how many pages at most, {@link #MOST} when null; more fail the call
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record Paging(By by, String rows, String next, Integer start, Integer size, String until, Integer most) {
    /** How many pages there are at most unless said otherwise. */
    public static final int MOST = 1000;

    /** The variable a page is asked with. */
    public static final String VARIABLE = "page";

    /** What tells that there is another page. */
    public enum By {
        /** There is one page only: a Read asks once. */
        ONCE,
        /** The reply holds a token to ask for the next page with. */
        TOKEN,
        /** Pages begin at a row: there is another one as long as rows come. */
        OFFSET,
        /** Pages are numbered: there is another one as long as rows come. */
        NUMBER;

        /** Returns the word used in files and the API. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    /** Returns this for other rows. */
    public Paging of(String otherRows) {
        return new Paging(by, otherRows, next, start, size, until, most);
    }

    /** Returns the number of the first page, or the offset of its first row. */
    public int first() {
        return start != null ? start : by == By.OFFSET ? 0 : 1;
    }

    /** Returns how many pages there are at most. */
    public int limit() {
        return most == null ? MOST : most;
    }
}
