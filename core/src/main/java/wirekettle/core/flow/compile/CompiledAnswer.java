package wirekettle.core.flow.compile;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import wirekettle.core.fill.ValueSource;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.NamedText;
import wirekettle.core.record.RowMaker;

/**
 * A compiled Answer stage.
 *
 * @param status what gives the HTTP status, null for 200
 * @param headers its own HTTP headers
 * @param body what makes the answer, null when it cannot work
 */
public record CompiledAnswer(Frame frame, ValueSource status, List<NamedSource> headers, RowMaker body)
        implements Compiled {
    /** What a header is given by the connection, or by what answers. */
    private static final Set<String> NOT_OWN = Set.of(
            "connection",
            "content-length",
            "content-type",
            "date",
            "keep-alive",
            "set-cookie",
            "te",
            "trailer",
            "transfer-encoding",
            "upgrade");

    static CompiledAnswer of(AnswerStage stage, Reach reach, Compilation at) {
        at.needsColumns(stage);
        ValueSource status = stage.status() == null || stage.status().isBlank()
                ? null
                : NamedSource.of(stage.id(), "status", stage.status(), reach, at);
        List<NamedSource> headers = new ArrayList<>();
        for (NamedText each : stage.headers()) {
            String name = each.name() == null ? "" : each.name();
            if (!name.matches("[A-Za-z0-9!#$%&'*+.^_`|~-]{1,80}")) {
                at.problem(stage.id(), "“" + name + "” is no name of an HTTP header");
            } else if (NOT_OWN.contains(name.toLowerCase(Locale.ROOT))) {
                at.problem(stage.id(), "the header " + name + " is not a flow's to set");
            } else if (each.value() == null || each.value().isBlank()) {
                at.problem(stage.id(), "the header " + name + " has no value");
            } else {
                headers.add(
                        new NamedSource(name, NamedSource.of(stage.id(), "header " + name, each.value(), reach, at)));
            }
        }
        return new CompiledAnswer(at.frame(stage, reach, reach), status, headers, at.maker(stage, reach));
    }

    @Override
    public boolean usable() {
        return body != null;
    }

    @Override
    public AnswerStage stage() {
        return (AnswerStage) frame.stage();
    }
}
