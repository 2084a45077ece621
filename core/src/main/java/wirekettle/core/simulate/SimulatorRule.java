package wirekettle.core.simulate;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import wirekettle.core.fill.Fill;
import wirekettle.core.schema.SheetPath;
import wirekettle.core.schema.SheetPath.Step;
import wirekettle.core.value.Node;

/**
 * When a request looks like this, answer like that. The first rule that holds is used.
 *
 * @param operation the operation answered
 * @param when XPath over {@code $request}, {@code $header} and {@code $data}; null or empty always holds
 * @param bind names for nodes found by XPath, usable in the fills
 * @param fills what fills the reply, or the fault's detail; targets are paths of that message
 * @param fault the name of the fault answered with, or of the header element a fault about a header carries; null for
 *     a reply
 * @param reason the fault's text
 * @param delayMillis how long to wait before answering, or null
 * @param matches fields the request must have with these values; empty always holds
 * @param example whether a valid example gives the fields of the reply that no fill gives
 * @param multiReference whether an encoded reply tells each item of an array beside the reply (SOAP 1.1, 5.2.1)
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record SimulatorRule(
        String operation,
        String when,
        Map<String, String> bind,
        List<Fill> fills,
        String fault,
        String reason,
        Integer delayMillis,
        Boolean multiReference,
        List<Match> matches,
        Boolean example) {
    /**
     * A field of the request with a value.
     *
     * @param field its path in the request, headers included; a repeated field may have the value anywhere
     * @param value the value it must have, empty for a field that is not there
     */
    public record Match(String field, String value) {}

    /** Fills in what may be left out. */
    public SimulatorRule {
        bind = bind == null ? Map.of() : Map.copyOf(bind);
        fills = fills == null ? List.of() : List.copyOf(fills);
        matches = matches == null ? List.of() : List.copyOf(matches);
    }

    /** Tells whether a request with its headers has all the values compared. */
    boolean matches(Node header, Node request) {
        return matches.stream().allMatch(match -> {
            List<Step> steps = SheetPath.parse(match.field()).steps();
            List<Node> roots = new ArrayList<>(header.children());
            roots.add(request);
            boolean there = roots.stream()
                    .filter(root -> root.name().equals(steps.get(0).name()))
                    .anyMatch(root -> has(root, steps.subList(1, steps.size()), match.value()));
            return match.value().isEmpty() ? !there : there;
        });
    }

    private static boolean has(Node node, List<Step> steps, String value) {
        if (steps.isEmpty()) {
            return value.isEmpty() || node.text().strip().equals(value.strip());
        }
        Step step = steps.get(0);
        return (step.attribute() ? node.attributes() : node.children())
                .stream()
                        .filter(child -> child.name().equals(step.name()))
                        .anyMatch(child -> has(child, steps.subList(1, steps.size()), value));
    }
}
