package wirekettle.core.flow.run;

import java.io.IOException;
import java.time.LocalDate;
import java.util.List;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.flow.compile.CompiledLookUp;
import wirekettle.core.flow.file.LookUpStage;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/** Finds a row by key. */
final class LookUpStep implements Step {
    private final CompiledLookUp lookUp;
    private final Doors.LookUps rows;

    LookUpStep(CompiledLookUp lookUp, Doors.LookUps rows) {
        this.lookUp = lookUp;
        this.rows = rows;
    }

    @Override
    public StepResult run(Item item) throws Failed {
        LookUpStage stage = lookUp.stage();
        Node row = item.made(stage.id());
        if (row == null) {
            row = found(item);
            item.makes(stage.id(), row);
            item.replay().works(item.path(), stage.id());
        }
        item.bind(stage.as(), row);
        return StepResult.ON;
    }

    private Node found(Item item) throws Failed {
        Failure before = item.known() ? item.replay().failed(item.path(), lookUp.id()) : null;
        if (before != null) {
            throw new Failed(before);
        }
        if (item.halt() != null && item.halt().reads()) {
            throw new Failed(item.halt().failure(), false);
        }
        try {
            return looked(item);
        } catch (Failed failed) {
            item.replay().fails(item.path(), lookUp.id(), failed.failure());
            throw failed;
        }
    }

    private Node looked(Item item) throws Failed {
        LookUpStage stage = lookUp.stage();
        String key;
        List<Node> found;
        try {
            key = lookUp.key() == null ? null : lookUp.key().raw(item.scope());
        } catch (ExpressionProblem e) {
            throw failed("the key cannot be made", e.getMessage());
        }
        if (key == null || key.isBlank()) {
            found = List.of();
        } else {
            try {
                found = lookUp.codes() == null ? rows.rows(lookUp, key) : entry(item, key);
            } catch (IOException e) {
                throw failed(stage.into() + " cannot be read", e.getMessage());
            }
        }
        if (found.isEmpty() && stage.none() == LookUpStage.None.REJECT) {
            if (key == null || key.isBlank()) {
                throw failed("no key to look for", "there is no key to look for in " + stage.into());
            }
            boolean codes = lookUp.codes() != null;
            throw failed(
                    stage.into() + " has no " + (codes ? "code" : "row") + " for it",
                    codes
                            ? stage.into() + " has no code “" + key + "” that counts today"
                            : stage.into() + " has no row whose " + stage.column() + " is “" + key + "”");
        }
        if (found.size() > 1 && stage.many() == LookUpStage.Many.REJECT) {
            throw failed(
                    stage.dataset() + " has several rows for it",
                    stage.dataset() + " has several rows whose " + stage.column() + " is “" + key + "”");
        }
        return found.isEmpty() ? Node.branch(Name.of("empty"), List.of()) : found.get(0);
    }

    /** The entry of a code as it counts on the record's day. */
    private List<Node> entry(Item item, String key) {
        String day = item.replay().now().substring(0, "2026-12-04".length());
        String value = lookUp.codes().find(key, LocalDate.parse(day));
        return value == null
                ? List.of()
                : List.of(Node.build(Name.of("record"))
                        .add("code", key)
                        .add("value", value)
                        .done());
    }

    private Failed failed(String cause, String message) {
        return new Failed(Failure.of(FailureClass.MAPPING, cause, message, lookUp.id()));
    }
}
