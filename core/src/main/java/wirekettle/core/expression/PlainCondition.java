package wirekettle.core.expression;

import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.value.Node;

/**
 * A condition that compares a path with a text, decided without the expression engine: most conditions are that plain.
 * Where a node is not plainly one text the engine is asked, so that both always agree (XPath 3.1, 3.7.2).
 */
final class PlainCondition {
    private static final Pattern FORM =
            Pattern.compile("\\s*(\\$[^\\s=!<>'\"()\\[\\]|,+*]+)\\s*(!?=)\\s*(?:'([^']*)'|\"([^\"]*)\")\\s*");

    private final WirePath path;
    private final boolean equal;
    private final String text;

    private PlainCondition(WirePath path, boolean equal, String text) {
        this.path = path;
        this.equal = equal;
        this.text = text;
    }

    /** Returns the plain form of a sound condition, null when it is more than that. */
    static PlainCondition of(String condition) {
        Matcher form = FORM.matcher(condition);
        if (!form.matches() || !WirePath.isPath(form.group(1))) {
            return null;
        }
        String text = form.group(3) == null ? form.group(4) : form.group(3);
        return new PlainCondition(WirePath.parse(form.group(1)), form.group(2).equals("="), text);
    }

    /** Returns whether it holds, null when the engine has to be asked. */
    Boolean test(Scope scope) {
        List<Node> nodes = path.all(scope);
        for (Node node : nodes) {
            if (!node.children().isEmpty() || node.content() != null) {
                return null;
            }
            if (node.text().equals(text) == equal) {
                return true;
            }
        }
        return false;
    }
}
