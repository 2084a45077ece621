package wirekettle.core.mapping;

import java.util.List;
import java.util.Map;
import wirekettle.core.value.CodeTable;

/**
 * What the fills of a mapping may use beside the variables in reach.
 *
 * @param expressions the engine expressions are compiled by
 * @param tables the code tables by name
 * @param documents the documents inside fields of the message
 * @param style how the message is written
 */
public record MappingContext(
        Expressions expressions, Map<String, CodeTable> tables, List<EmbeddedDocument> documents, MessageStyle style) {
    /** Keeps its own copies. */
    public MappingContext {
        tables = Map.copyOf(tables);
        documents = List.copyOf(documents);
    }

    /** Returns a context without code tables and documents, written plainly. */
    public static MappingContext of(Expressions expressions) {
        return new MappingContext(expressions, Map.of(), List.of(), MessageStyle.PLAIN);
    }

    /** Returns a context with code tables. */
    public MappingContext with(Map<String, CodeTable> others) {
        return new MappingContext(expressions, others, documents, style);
    }

    /** Returns a context with documents inside fields. */
    public MappingContext with(List<EmbeddedDocument> others) {
        return new MappingContext(expressions, tables, others, style);
    }

    /** Returns a context of another style. */
    public MappingContext with(MessageStyle other) {
        return new MappingContext(expressions, tables, documents, other);
    }
}
