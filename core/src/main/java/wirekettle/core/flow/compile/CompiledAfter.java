package wirekettle.core.flow.compile;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Expressions;
import wirekettle.core.flow.file.AfterLast;

/**
 * What is run once after the last record, compiled.
 *
 * @param stage as it is written
 * @param block its stages
 * @param sums what is added up over the records; those that are not sound are left out
 */
public record CompiledAfter(AfterLast stage, CompiledBlock block, List<Sum> sums) {
    /** The id problems of it have. */
    public static final String ID = "after";

    /** A number added up over the records. */
    public record Sum(String name, Expressions.Compiled of) {}

    static CompiledAfter of(AfterLast stage, Reach records, Compilation at) {
        List<Sum> sums = new ArrayList<>();
        Set<String> names = new HashSet<>();
        for (AfterLast.Sum sum : stage.sums()) {
            if (sum.name() == null || !sum.name().matches("[\\p{L}_][\\p{L}\\p{N}_.-]*") || !names.add(sum.name())) {
                at.problem(ID, "a sum has no name, or one that is used twice or has a space: " + sum.name());
                continue;
            }
            if (sum.of() == null || sum.of().isBlank()) {
                at.problem(ID, "the sum " + sum.name() + " does not say of what");
                continue;
            }
            try {
                sums.add(new Sum(sum.name(), at.around().context().expressions().compile(sum.of(), records.names())));
            } catch (ExpressionProblem e) {
                at.problem(ID, "the sum " + sum.name() + ": " + e.getMessage());
            }
        }
        at.places().put(ID, records);
        Reach reach = at.base().with(Reach.whole(sums.stream().map(Sum::name).toList()));
        return new CompiledAfter(stage, at.block(stage.stages(), reach), List.copyOf(sums));
    }
}
