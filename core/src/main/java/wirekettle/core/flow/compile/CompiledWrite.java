package wirekettle.core.flow.compile;

import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.record.RowMaker;

/**
 * A compiled Write stage.
 *
 * @param rows what makes its rows, null when it cannot work
 */
public record CompiledWrite(Frame frame, RowMaker rows) implements Compiled {
    static CompiledWrite of(WriteStage stage, Reach reach, Compilation at) {
        if (stage.dataset() == null || stage.dataset().isBlank()) {
            at.problem(stage.id(), "no dataset is written to: pick or add one");
        }
        at.needsColumns(stage);
        if (stage.mode() == WriteStage.Mode.UPSERT && stage.keys().isEmpty()) {
            at.problem(stage.id(), "upsert needs the columns it is decided by");
        }
        RowMaker rows = at.maker(stage, reach);
        return new CompiledWrite(at.frame(stage, reach, reach), rows);
    }

    @Override
    public boolean usable() {
        return rows != null && !stage().columns().isEmpty();
    }

    @Override
    public WriteStage stage() {
        return (WriteStage) frame.stage();
    }
}
