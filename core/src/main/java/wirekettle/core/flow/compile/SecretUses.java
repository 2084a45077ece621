package wirekettle.core.flow.compile;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import wirekettle.core.fill.Fill;

/** The secrets that expressions of fills ask for by name: the second argument of {@code wire:hmac}. */
final class SecretUses {
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final String ASKS = "wire:hmac(";

    private SecretUses() {}

    /** Returns their names; one that is worked out from data is not among them. */
    static Set<String> of(List<Fill> fills) {
        Set<String> names = new LinkedHashSet<>();
        collect(JSON.valueToTree(fills), names);
        return names;
    }

    private static void collect(JsonNode node, Set<String> names) {
        if (node.isTextual()) {
            String text = node.asText();
            for (int at = text.indexOf(ASKS); at >= 0; at = text.indexOf(ASKS, at + 1)) {
                List<String> arguments = arguments(text, at + ASKS.length());
                String name =
                        arguments.size() < 2 ? null : literal(arguments.get(1).strip());
                if (name != null) {
                    names.add(name);
                }
            }
        }
        node.forEach(each -> collect(each, names));
    }

    /** Returns the arguments that begin at a place, as they are written. */
    private static List<String> arguments(String text, int from) {
        List<String> arguments = new ArrayList<>();
        int begun = from;
        int depth = 0;
        char quote = 0;
        for (int i = from; i < text.length(); i++) {
            char c = text.charAt(i);
            if (quote != 0) {
                quote = c == quote ? 0 : quote;
            } else if (c == '\'' || c == '"') {
                quote = c;
            } else if (c == '(' || c == '[') {
                depth++;
            } else if (depth > 0 && (c == ')' || c == ']')) {
                depth--;
            } else if (depth == 0 && (c == ',' || c == ')')) {
                arguments.add(text.substring(begun, i));
                begun = i + 1;
                if (c == ')') {
                    return arguments;
                }
            }
        }
        return arguments;
    }

    /** Returns what a string literal says (XPath 3.1 §3.1.1), null for any other expression. */
    private static String literal(String argument) {
        if (argument.length() < 2) {
            return null;
        }
        char quote = argument.charAt(0);
        String inner = argument.substring(1, argument.length() - 1);
        String twice = String.valueOf(quote).repeat(2);
        boolean whole = (quote == '\'' || quote == '"')
                && argument.charAt(argument.length() - 1) == quote
                && inner.replace(twice, "").indexOf(quote) < 0;
        return whole ? inner.replace(twice, String.valueOf(quote)) : null;
    }
}
