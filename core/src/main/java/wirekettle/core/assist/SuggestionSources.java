package wirekettle.core.assist;

import java.util.List;
import java.util.Map;
import java.util.function.Function;
import wirekettle.core.expression.Scope;
import wirekettle.core.value.ValueFormat;

/**
 * What a message may be filled from.
 *
 * @param samples scopes of sample records
 * @param variables the variables to look below, without the dollar sign
 * @param lines the path to the rows of a record that was put together from several, or null
 * @param formats the format known of a field by its path from a variable, null for none
 * @param accepted wires people kept before, by target path
 */
public record SuggestionSources(
        List<Scope> samples,
        List<String> variables,
        String lines,
        Function<String, ValueFormat> formats,
        Map<String, String> accepted) {}
