package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonValue;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Set;

/**
 * One difference between two revisions of a flow.
 *
 * @param stage the id of the stage, null for what belongs to no stage
 * @param title the stage by verb and name, {@code the flow} for what belongs to none
 * @param kind what became of it
 * @param what the part that differs: a fill's target, or the place of a setting; null for a whole stage
 * @param before how it was, null when it is new
 * @param after how it is, null when it is gone
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record FlowDifference(String stage, String title, Kind kind, String what, String before, String after) {
    /** What became of a stage or of a part of one. */
    public enum Kind {
        ADDED,
        REMOVED,
        MOVED,
        CHANGED;

        /** Returns the word used in the API. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    private static final ObjectMapper JSON = new ObjectMapper();
    private static final String VERB = "verb";
    private static final String FILLS = "fills";

    /**
     * A stage as it is written, without the stages within it.
     *
     * @param block what holds it: the id of a stage and the member of it
     * @param place where it stands, in words
     */
    private record Written(String title, String block, String place, Map<String, String> parts) {}

    /** Returns what differs, in the order of the later revision; empty where both mean the same. */
    public static List<FlowDifference> between(FlowFile before, FlowFile after) {
        Map<String, Written> old = stages(before);
        Map<String, Written> now = stages(after);
        Set<String> stays = staying(old, now);
        List<FlowDifference> found = new ArrayList<>();
        now.forEach((id, its) -> {
            Written was = old.get(id);
            String stage = id.isEmpty() ? null : id;
            if (was == null) {
                found.add(new FlowDifference(stage, its.title(), Kind.ADDED, null, null, null));
            } else {
                if (!stays.contains(id)) {
                    found.add(new FlowDifference(stage, its.title(), Kind.MOVED, null, was.place(), its.place()));
                }
                parts(stage, its.title(), was.parts(), its.parts(), found);
            }
        });
        old.forEach((id, was) -> {
            if (!now.containsKey(id)) {
                found.add(new FlowDifference(id, was.title(), Kind.REMOVED, null, null, null));
            }
        });
        return found;
    }

    /** Returns the stages that stand where they stood: in the same block, in the longest order both revisions share. */
    private static Set<String> staying(Map<String, Written> old, Map<String, Written> now) {
        Map<String, List<String>> before = blocks(old, now);
        Map<String, List<String>> after = blocks(now, old);
        Set<String> stays = new LinkedHashSet<>();
        before.forEach((block, ids) -> stays.addAll(shared(ids, after.getOrDefault(block, List.of()))));
        return stays;
    }

    /** Returns the stages by what holds them, those that are in the same block of the other revision. */
    private static Map<String, List<String>> blocks(Map<String, Written> in, Map<String, Written> other) {
        Map<String, List<String>> blocks = new LinkedHashMap<>();
        in.forEach((id, its) -> {
            Written elsewhere = other.get(id);
            if (elsewhere != null && elsewhere.block().equals(its.block())) {
                blocks.computeIfAbsent(its.block(), key -> new ArrayList<>()).add(id);
            }
        });
        return blocks;
    }

    /** Returns the longest list that is part of both, in their order. */
    private static List<String> shared(List<String> a, List<String> b) {
        int[][] length = new int[a.size() + 1][b.size() + 1];
        for (int i = a.size() - 1; i >= 0; i--) {
            for (int j = b.size() - 1; j >= 0; j--) {
                length[i][j] = a.get(i).equals(b.get(j))
                        ? length[i + 1][j + 1] + 1
                        : Math.max(length[i + 1][j], length[i][j + 1]);
            }
        }
        List<String> shared = new ArrayList<>();
        int i = 0;
        int j = 0;
        while (i < a.size() && j < b.size()) {
            if (a.get(i).equals(b.get(j))) {
                shared.add(a.get(i));
                i++;
                j++;
            } else if (length[i + 1][j] >= length[i][j + 1]) {
                i++;
            } else {
                j++;
            }
        }
        return shared;
    }

    private static void parts(
            String stage, String title, Map<String, String> old, Map<String, String> now, List<FlowDifference> into) {
        Set<String> all = new LinkedHashSet<>(now.keySet());
        all.addAll(old.keySet());
        for (String part : all) {
            String was = old.get(part);
            String its = now.get(part);
            if (!Objects.equals(was, its)) {
                Kind kind = was == null ? Kind.ADDED : its == null ? Kind.REMOVED : Kind.CHANGED;
                into.add(new FlowDifference(stage, title, kind, part, was, its));
            }
        }
    }

    private static Map<String, Written> stages(FlowFile file) {
        Map<String, Written> found = new LinkedHashMap<>();
        JsonNode tree = JSON.valueToTree(file);
        Map<String, String> own = new LinkedHashMap<>();
        found.put("", new Written("the flow", "", "", own));
        walk(tree, "", "", "", own, found);
        own.remove("format");
        return found;
    }

    /** Collects the parts of a stage, and the stages within it with the place each has. */
    private static void walk(
            JsonNode node,
            String part,
            String holder,
            String place,
            Map<String, String> own,
            Map<String, Written> found) {
        if (node.isObject()) {
            node.properties().forEach(member -> {
                String name = member.getKey();
                if (!name.equals(VERB) && !name.equals("id")) {
                    walk(member.getValue(), part.isEmpty() ? name : part + "/" + name, holder, place, own, found);
                }
            });
        } else if (node.isArray() && stages(node)) {
            String behind = "first";
            for (JsonNode each : node) {
                String id = each.path("id").asText();
                String title = title(each);
                Map<String, String> parts = new LinkedHashMap<>();
                String where =
                        (place.isEmpty() ? "" : place + ", ") + (part.equals("stages") ? "" : part + ", ") + behind;
                found.put(id, new Written(title, holder + "/" + part, where, parts));
                walk(each, "", id, "in " + title, parts, found);
                behind = "behind " + title;
            }
        } else if (node.isArray()) {
            int at = 1;
            for (JsonNode each : node) {
                if (part.endsWith(FILLS)) {
                    own.put("fill " + each.path("target").asText(), fill(each));
                } else {
                    String name = each.hasNonNull("id") ? each.get("id").asText() : Integer.toString(at);
                    walk(each, part + "/" + name, holder, place, own, found);
                }
                at++;
            }
        } else if (!node.isNull() && !node.asText().isEmpty()) {
            own.put(part, node.asText());
        }
    }

    private static boolean stages(JsonNode array) {
        return !array.isEmpty() && array.get(0).hasNonNull(VERB);
    }

    private static String title(JsonNode stage) {
        for (String name : List.of("name", "operation", "as", "dataset", "item", "batch")) {
            if (stage.hasNonNull(name) && !stage.get(name).asText().isBlank()) {
                return stage.get(VERB).asText() + " " + stage.get(name).asText();
            }
        }
        return stage.get(VERB).asText() + " " + stage.path("id").asText();
    }

    /** A fill in one line: the value itself where there is nothing else to say. */
    private static String fill(JsonNode fill) {
        StringBuilder text = new StringBuilder();
        fill.properties().forEach(member -> {
            boolean said = member.getValue().isNull()
                    || member.getKey().equals("id")
                    || member.getKey().equals("target")
                    || member.getValue().isContainerNode() && member.getValue().isEmpty();
            if (!said) {
                JsonNode value = member.getValue();
                text.append(text.length() == 0 ? "" : ", ")
                        .append(member.getKey())
                        .append(' ')
                        .append(value.isTextual() ? value.asText() : value.toString());
            }
        });
        return text.toString();
    }
}
