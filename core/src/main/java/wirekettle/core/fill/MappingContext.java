package wirekettle.core.fill;

import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.expression.Expressions;
import wirekettle.core.value.CodeTable;
import wirekettle.core.value.Series;

/**
 * What the fills of a mapping may use beside the variables in reach.
 *
 * @param expressions the engine expressions are compiled by
 * @param tables the code tables by name
 * @param documents the documents inside fields of the message
 * @param style how the message is written
 * @param series the series numbers are drawn from, by name
 * @param folders the names of the folders files are sent from and written to
 */
public record MappingContext(
        Expressions expressions,
        Map<String, CodeTable> tables,
        List<EmbeddedDocument> documents,
        MessageStyle style,
        Map<String, Series> series,
        Set<String> folders) {
    /** Keeps its own copies. */
    public MappingContext {
        folders = Set.copyOf(folders);
        tables = Map.copyOf(tables);
        series = Map.copyOf(series);
        documents = List.copyOf(documents);
    }

    /** Returns a context without code tables and documents, written plainly. */
    public static MappingContext of(Expressions expressions) {
        return new MappingContext(expressions, Map.of(), List.of(), MessageStyle.PLAIN, Map.of(), Set.of());
    }

    /** Returns a context with code tables. */
    public MappingContext with(Map<String, CodeTable> others) {
        return new MappingContext(expressions, others, documents, style, series, folders);
    }

    /** Returns a context with documents inside fields. */
    public MappingContext with(List<EmbeddedDocument> others) {
        return new MappingContext(expressions, tables, others, style, series, folders);
    }

    /** Returns a context of another style. */
    public MappingContext with(MessageStyle other) {
        return new MappingContext(expressions, tables, documents, other, series, folders);
    }

    /** Returns a context with series. */
    public MappingContext drawing(Map<String, Series> others) {
        return new MappingContext(expressions, tables, documents, style, others, folders);
    }

    /** Returns a context with folders. */
    public MappingContext with(Set<String> others) {
        return new MappingContext(expressions, tables, documents, style, series, others);
    }
}
