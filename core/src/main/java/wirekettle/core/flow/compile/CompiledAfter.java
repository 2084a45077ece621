package wirekettle.core.flow.compile;

import java.util.List;
import wirekettle.core.flow.file.AfterLast;

/**
 * What is run once after the last record, compiled.
 *
 * @param stage as it is written
 * @param block its stages
 * @param sums what is added up over the records; those that are not sound are left out
 */
public record CompiledAfter(AfterLast stage, CompiledBlock block, List<CompiledValue> sums) {
    /** The id problems of it have. */
    public static final String ID = "after";

    static CompiledAfter of(AfterLast stage, Reach records, Compilation at) {
        List<CompiledValue> sums = CompiledValue.of(stage.sums(), ID, "sum", records, at);
        at.places().put(ID, records);
        Reach reach = at.base()
                .with(Reach.whole(sums.stream().map(CompiledValue::name).toList()));
        return new CompiledAfter(stage, at.block(stage.stages(), reach), sums);
    }
}
