package wirekettle.server.bench;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import wirekettle.core.assist.Everything;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.record.RecordPlan;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.Reply;
import wirekettle.core.xml.XmlProblem;

/** Lays a reply out as rows, with the names of the fields as the first. */
final class ReplyRows {
    private ReplyRows() {}

    static List<String[]> of(Contract contract, Offered offered, String text) throws XmlProblem {
        Reply reply = Caller.reread(offered.operation(), text.getBytes(StandardCharsets.UTF_8));
        ElementDecl root = offered.operation().output().body().get(0);
        Everything.Made made = Everything.of(
                contract.sheet(root),
                "reply",
                null,
                reply.body().isEmpty() ? null : reply.body().get(0));
        List<RecordPlan.Target> targets = new ArrayList<>();
        for (int i = 0; i < made.fills().size(); i++) {
            targets.add(new RecordPlan.Target(
                    made.fills().get(i), made.columns().get(i).type(), false));
        }
        RecordPlan plan =
                new RecordPlan(made.rowPath(), targets, Set.of("reply"), MappingContext.of(new Expressions()));
        List<String[]> rows = new ArrayList<>();
        rows.add(plan.names().toArray(String[]::new));
        if (!reply.body().isEmpty()) {
            rows.addAll(plan.rows(Scope.empty().with("reply", reply.body().get(0)), new ArrayList<>()));
        }
        rows.forEach(row -> {
            for (int i = 0; i < row.length; i++) {
                row[i] = row[i] == null ? "" : row[i];
            }
        });
        return rows;
    }
}
