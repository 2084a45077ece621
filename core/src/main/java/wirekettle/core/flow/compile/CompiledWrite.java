package wirekettle.core.flow.compile;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.flow.file.NamedText;
import wirekettle.core.flow.file.WriteStage;
import wirekettle.core.record.RowMaker;

/**
 * A compiled Write stage.
 *
 * @param rows what makes its rows, null when it cannot work
 * @param properties what a message says beside its content
 */
public record CompiledWrite(Frame frame, RowMaker rows, List<NamedSource> properties) implements Compiled {
    static CompiledWrite of(WriteStage stage, Reach reach, Compilation at) {
        if (stage.dataset() == null || stage.dataset().isBlank()) {
            at.problem(stage.id(), "no dataset is written to: pick or add one");
        }
        at.needsColumns(stage);
        if (stage.mode() == WriteStage.Mode.UPSERT && stage.keys().isEmpty()) {
            at.problem(stage.id(), "upsert needs the columns it is decided by");
        }
        RowMaker rows = at.maker(stage, reach);
        return new CompiledWrite(at.frame(stage, reach, reach), rows, properties(stage, reach, at));
    }

    private static List<NamedSource> properties(WriteStage stage, Reach reach, Compilation at) {
        List<NamedSource> all = new ArrayList<>();
        if (!stage.properties().isEmpty() && stage.document() == null) {
            at.problem(stage.id(), "rows have no properties: a message of a queue has");
        }
        for (NamedText each : stage.properties()) {
            String name = each.name() == null ? "" : each.name();
            if (!name.matches("[\\p{L}_][\\p{L}\\p{Nd}_.-]{0,99}") || name.startsWith("JMS")) {
                at.problem(
                        stage.id(),
                        "“" + name + "” is no name of a property: it begins with a letter, and has letters, digits,"
                                + " dots, dashes and underscores");
            } else if (each.value() == null || each.value().isBlank()) {
                at.problem(stage.id(), "the property " + name + " has no value");
            } else {
                all.add(new NamedSource(name, NamedSource.of(stage.id(), "property " + name, each.value(), reach, at)));
            }
        }
        return all;
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
