package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonValue;
import java.util.Locale;

/**
 * Finds a row of a dataset, or an entry of a code table, by key.
 *
 * @param dataset the dataset's name; null where a code table is looked into
 * @param codes the code table's name, null where a dataset is looked into; its row is {@code code} and {@code value}
 * @param column the column of the dataset the key is looked for in
 * @param key a path or XPath 3.1 whose text is the key
 * @param as the variable the row is bound to
 * @param none what happens when there is no such row, null for {@link None#REJECT}
 * @param many what happens when there are several, null for {@link Many#REJECT}
 * @param lane what happens when it fails, or null
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record LookUpStage(
        String id, String dataset, String codes, String column, String key, String as, None none, Many many, Lane lane)
        implements Stage {
    /** What happens when no row has the key. */
    public enum None {
        /** The stage fails. */
        REJECT,
        /** The variable is empty. */
        EMPTY;

        /** Returns the word used in files and the API. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    /** What happens when several rows have the key. */
    public enum Many {
        /** The stage fails. */
        REJECT,
        /** The first row counts. */
        FIRST;

        /** Returns the word used in files and the API. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    /** Fills in what may be left out. */
    public LookUpStage {
        none = none == null ? None.REJECT : none;
        many = many == null ? Many.REJECT : many;
    }

    /** Returns the name of what is looked into. */
    public String into() {
        return codes == null ? dataset : codes;
    }

    @Override
    public LookUpStage failing(Lane other) {
        return new LookUpStage(id, dataset, codes, column, key, as, none, many, other);
    }
}
