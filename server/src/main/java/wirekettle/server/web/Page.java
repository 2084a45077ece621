package wirekettle.server.web;

import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;

/**
 * One page of a list.
 *
 * @param items the items of this page
 * @param total how many there are in all pages
 */
@Schema(requiredProperties = {"items", "total"})
public record Page<T>(List<T> items, long total) {
    /** Returns the size asked for, between 1 and 500, 50 when none is. */
    public static int size(Integer asked) {
        return asked == null ? 50 : Math.max(1, Math.min(500, asked));
    }

    /** Returns how many items lie before a page, counted from 1. */
    public static long offset(Integer page, Integer size) {
        return page == null || page < 1 ? 0 : (page - 1L) * size(size);
    }

    /** Returns a search text ready for {@code ilike}. */
    public static String like(String search) {
        return search == null || search.isBlank()
                ? "%"
                : "%" + search.strip().replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%";
    }
}
