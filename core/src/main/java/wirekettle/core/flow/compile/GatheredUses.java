package wirekettle.core.flow.compile;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.flow.file.SplitStage;

/**
 * Which variables of a Split's items the rest of the flow may reach in what is gathered: only these are kept. Where it
 * cannot be told from the texts of wires and expressions, all are.
 */
public final class GatheredUses {
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final Pattern NAME = Pattern.compile("[\\p{L}_][\\p{L}\\p{N}_.-]*");

    /** What only counts items needs nothing of them. */
    private static final Pattern COUNTED = Pattern.compile("(?:count|exists|empty)\\(\\s*\\$%s(?:/item)?\\s*\\)");

    private GatheredUses() {}

    /**
     * Returns the variables to keep.
     *
     * @param made the variables an item makes
     */
    public static Set<String> of(FlowFile file, SplitStage split, List<String> made) {
        List<String> texts = new ArrayList<>();
        if (split.gather().fills() == null || split.gather().fills().isEmpty()) {
            collect(JSON.valueToTree(file), split.id(), texts);
        } else {
            // only the shape of its own sees the items
            collect(JSON.valueToTree(split.gather()), null, texts);
        }
        String variable = Pattern.quote(split.gather().as());
        Pattern counted = Pattern.compile(COUNTED.pattern().replace("%s", variable));
        Pattern mentioned = Pattern.compile("\\$" + variable + "(?![\\p{L}\\p{N}_.-])");
        Pattern named = Pattern.compile("\\$" + variable + "/item(?:\\[[^\\[\\]]*])?/[\\p{L}_][\\p{L}\\p{N}_.-]*");
        Set<String> names = new LinkedHashSet<>();
        for (String text : texts) {
            Matcher name = NAME.matcher(text);
            while (name.find()) {
                names.add(name.group());
            }
            String rest = named.matcher(counted.matcher(text).replaceAll("")).replaceAll("");
            if (mentioned.matcher(rest).find()
                    || text.contains("$" + split.gather().as()) && wild(text)) {
                return new LinkedHashSet<>(made);
            }
        }
        Set<String> kept = new LinkedHashSet<>(made);
        kept.retainAll(names);
        return kept;
    }

    /** Tells whether a text may reach what it does not name. */
    private static boolean wild(String text) {
        return text.contains("*")
                || text.contains("//")
                || text.contains("(.)")
                || text.contains("node()")
                || text.contains("child::")
                || text.contains("descendant")
                || text.contains("..");
    }

    private static void collect(JsonNode node, String split, List<String> texts) {
        if (node.isTextual()) {
            texts.add(node.asText());
        } else if (node instanceof ObjectNode object
                && object.path("id").asText().equals(split)
                && object.path("verb").asText().equals("Split")) {
            collect(object.path("gather"), split, texts);
            collect(object.path("lane"), split, texts);
        } else {
            node.forEach(each -> collect(each, split, texts));
        }
    }
}
