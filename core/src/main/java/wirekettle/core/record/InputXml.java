package wirekettle.core.record;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.value.JsonName;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/** Takes the fields of a record from an XML document. */
final class InputXml {
    private InputXml() {}

    static Node read(
            PlaceTree shape,
            Node document,
            Map<String, List<String>> beside,
            Node.Builder made,
            List<InputReader.Problem> problems) {
        below(shape, document, "", beside, made, problems);
        return made.done();
    }

    private static void below(
            PlaceTree level,
            Node given,
            String pointer,
            Map<String, List<String>> beside,
            Node.Builder made,
            List<InputReader.Problem> problems) {
        Map<String, List<Node>> there = new LinkedHashMap<>();
        given.attributes().forEach(each -> found(there, each));
        given.children().forEach(each -> found(there, each));
        if (there.isEmpty() && !given.text().isBlank()) {
            InputReader.add(problems, pointer, "is a text where fields are expected");
        }
        Set<String> known = new HashSet<>();
        level.children().forEach((name, field) -> {
            String member = JsonName.member(name);
            known.add(member);
            String at = pointer + "/" + InputReader.pointed(member);
            List<Node> its = there.getOrDefault(name, List.of());
            if (beside.containsKey(member)) {
                if (!its.isEmpty()) {
                    InputReader.add(problems, at, "is given beside the document already");
                }
                InputReader.texts(name, field, beside.get(member), made, problems);
            } else if (its.isEmpty()) {
                field.required().forEach(place -> InputReader.add(problems, pointer + place, "is missing"));
            } else if (its.size() > 1 && !field.repeats()) {
                InputReader.add(problems, at, "is there " + its.size() + " times");
            } else {
                for (int i = 0; i < its.size(); i++) {
                    made.add(one(name, field, its.get(i), field.repeats() ? at + "/" + i : at, problems));
                }
            }
        });
        Set<String> all = new LinkedHashSet<>(beside.keySet());
        there.keySet().forEach(each -> all.add(JsonName.member(each)));
        InputReader.unknown(all, known, pointer, problems);
    }

    private static void found(Map<String, List<Node>> there, Node node) {
        there.computeIfAbsent(node.name().local(), name -> new ArrayList<>()).add(node);
    }

    private static Node one(
            String name, PlaceTree field, Node given, String pointer, List<InputReader.Problem> problems) {
        Node.Builder made = Node.build(Name.of(name));
        if (given.nil()) {
            return made.nil().done();
        }
        if (field.column() == null) {
            below(field, given, pointer, Map.of(), made, problems);
        } else if (!given.children().isEmpty()) {
            InputReader.add(problems, pointer, "has elements where a text is expected");
        } else {
            InputReader.text(field, given.text(), pointer, problems);
            made.text(given.text());
        }
        return made.done();
    }
}
