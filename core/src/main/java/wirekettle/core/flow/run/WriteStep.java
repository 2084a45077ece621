package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.compile.CompiledWrite;
import wirekettle.core.flow.compile.NamedSource;

/** Makes the rows of a record; they leave when it has come to its end. */
final class WriteStep implements Step {
    private final CompiledWrite write;

    WriteStep(CompiledWrite write) {
        this.write = write;
    }

    @Override
    public StepResult run(Item item) throws Failed {
        List<MappingProblem> problems = new ArrayList<>();
        List<String[]> rows = write.rows().rows(item.scope(), problems);
        if (!problems.isEmpty() && !write.stage().leavesUnfit()) {
            throw new Failed(Failure.of(problems, write.id()));
        }
        item.writes(write.id(), write.properties().isEmpty() ? rows : with(properties(item), rows));
        return StepResult.ON;
    }

    private String[] properties(Item item) throws Failed {
        List<NamedSource> all = write.properties();
        String[] texts = new String[all.size()];
        for (int i = 0; i < texts.length; i++) {
            texts[i] = NamedTexts.of(all.get(i).value(), item, "no property", write.id());
        }
        return texts;
    }

    /** The properties stand behind the content. */
    private static List<String[]> with(String[] properties, List<String[]> rows) {
        List<String[]> all = new ArrayList<>();
        for (String[] row : rows) {
            String[] both = Arrays.copyOf(row, row.length + properties.length);
            System.arraycopy(properties, 0, both, row.length, properties.length);
            all.add(both);
        }
        return all;
    }
}
