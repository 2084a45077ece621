package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.ArrayList;
import java.util.List;
import java.util.function.UnaryOperator;

/**
 * Goes one of several ways: the first whose condition holds, else the one without a condition, else on behind it.
 *
 * @param ways the ways, in the order their conditions are asked
 * @param lane what happens when it or a stage of a way fails, or null
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record BranchStage(String id, List<Way> ways, Lane lane) implements Stage {
    /**
     * One way.
     *
     * @param id unique in its flow
     * @param label what people call it, or null
     * @param when XPath 3.1; null for the way of all others, which is the last
     * @param stages what happens on it
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record Way(String id, String label, String when, List<Stage> stages) {
        /** Keeps its own copy. */
        public Way {
            stages = stages == null ? List.of() : List.copyOf(stages);
        }
    }

    /** Keeps its own copy. */
    public BranchStage {
        ways = ways == null ? List.of() : List.copyOf(ways);
    }

    @Override
    public List<Stage> inside() {
        List<Stage> all = new ArrayList<>();
        ways.forEach(way -> all.addAll(way.stages()));
        all.addAll(lane == null ? List.of() : lane.stages());
        return all;
    }

    @Override
    public BranchStage failing(Lane other) {
        return new BranchStage(id, ways, other);
    }

    @Override
    public Stage mapped(UnaryOperator<Stage> change) {
        List<Way> changed = ways.stream()
                .map(way -> new Way(
                        way.id(),
                        way.label(),
                        way.when(),
                        way.stages().stream().map(change).toList()))
                .toList();
        return new BranchStage(id, changed, Lane.mapped(lane, change));
    }
}
