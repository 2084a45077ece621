package wirekettle.core.flow.compile;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.expression.Expressions;
import wirekettle.core.flow.file.BranchStage;

/**
 * A compiled Branch stage.
 *
 * @param ways its ways in order
 */
public record CompiledBranch(Frame frame, List<Way> ways) implements Compiled {
    /**
     * One way.
     *
     * @param way the way as it is written
     * @param when its condition, null for the way of all others
     * @param block what happens on it
     */
    public record Way(BranchStage.Way way, Expressions.Compiled when, CompiledBlock block) {}

    static CompiledBranch of(BranchStage stage, Reach reach, Compilation at) {
        if (stage.ways().isEmpty()) {
            at.problem(stage.id(), "it has no ways yet: add one");
        }
        List<Way> ways = new ArrayList<>();
        Map<String, List<Variable>> made = new LinkedHashMap<>();
        for (int i = 0; i < stage.ways().size(); i++) {
            BranchStage.Way way = stage.ways().get(i);
            boolean rest = way.when() == null || way.when().isBlank();
            if (rest && i < stage.ways().size() - 1) {
                at.problem(stage.id(), "only the last way may do without a condition: way " + (i + 1) + " has none");
            }
            Expressions.Compiled when = at.condition(stage.id(), way.id(), way.when(), reach);
            CompiledBlock block = at.block(way.stages(), reach);
            ways.add(new Way(way, when, block));
            for (Variable variable : block.after().variables()) {
                if (reach.get(variable.name()) == null) {
                    made.computeIfAbsent(variable.name(), n -> new ArrayList<>())
                            .add(variable);
                }
            }
        }
        Reach after = reach;
        boolean others = !stage.ways().isEmpty()
                && ways.get(ways.size() - 1).when() == null
                && isRest(stage.ways().get(stage.ways().size() - 1));
        for (List<Variable> several : made.values()) {
            Variable first = several.get(0);
            for (Variable other : several) {
                if (!other.shape().same(first.shape())) {
                    at.problem(
                            stage.id(),
                            "$" + first.name() + " is made in different shapes in its ways (" + first.stage() + ", "
                                    + other.stage() + "): give one of them another name");
                    break;
                }
            }
            boolean everywhere = others && several.size() == stage.ways().size();
            boolean sure = everywhere && several.stream().noneMatch(Variable::mayBeEmpty);
            after = after.with(sure ? first : first.maybe());
        }
        return new CompiledBranch(at.frame(stage, reach, after), List.copyOf(ways));
    }

    private static boolean isRest(BranchStage.Way way) {
        return way.when() == null || way.when().isBlank();
    }

    @Override
    public boolean usable() {
        return ways.stream()
                .allMatch(way -> (way.when() != null || isRest(way.way()))
                        && way.block().steps().stream().allMatch(Compiled::usable));
    }

    @Override
    public BranchStage stage() {
        return (BranchStage) frame.stage();
    }
}
