package wirekettle.core.flow.compile;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.WirePath;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Paging;
import wirekettle.core.value.Column;
import wirekettle.core.value.Node;
import wirekettle.core.value.ScalarType;

/**
 * How a Call asks for page after page, compiled.
 *
 * @param stage as it is written
 * @param rows the path to the repeated element, null where it is not sound
 * @param next gives the token of the next page, or null
 * @param until tells that there is no other page, or null
 */
public record CompiledPaging(Paging stage, WirePath rows, Expressions.Compiled next, Expressions.Compiled until) {
    /** Returns the variable a page is asked with. */
    static Variable page(CallStage stage) {
        List<Column> columns = List.of(
                new Column("number", "number", ScalarType.INTEGER, null, false),
                new Column("offset", "offset", ScalarType.INTEGER, null, false),
                new Column("token", "token", ScalarType.STRING, null, false));
        return new Variable(
                Paging.VARIABLE, "the page asked for", stage.id(), new Shape.OfColumns(columns, false), false);
    }

    /** Compiles it; null for a call that asks once. */
    static CompiledPaging of(CallStage stage, Reach before, Reach after, Compilation at) {
        Paging pages = stage.pages();
        if (pages == null) {
            return null;
        }
        if (!stage.delivery().reads()) {
            at.problem(stage.id(), "only an operation that reads can be asked page after page");
        }
        if (stage.delivery().memorySeconds() != null) {
            at.problem(stage.id(), "pages are not answered from memory: ask once, or switch the memory off");
        }
        if (before.get(Paging.VARIABLE) != null) {
            at.problem(stage.id(), "$page is there already, and pages need that name: call the other one differently");
        }
        if (pages.by() == null || pages.by() == Paging.By.ONCE && !at.isSource(stage.id())) {
            at.problem(stage.id(), "pages: say what tells that there is another one");
        }
        if (pages.by() == Paging.By.TOKEN
                && (pages.next() == null || pages.next().isBlank())) {
            at.problem(stage.id(), "pages: say where in the reply the token of the next page is");
        }
        if (pages.limit() < 1 || pages.size() != null && pages.size() < 1) {
            at.problem(stage.id(), "pages: their number and size are at least 1");
        }
        Reach over = after.with(page(stage));
        return new CompiledPaging(
                pages,
                rows(stage, at),
                expression(stage, "the token", pages.next(), over, at),
                expression(stage, "the last page", pages.until(), over, at));
    }

    /** Returns the rows of a reply. */
    public List<Node> rowsOf(Node body) {
        List<Node> found = new ArrayList<>();
        if (body != null) {
            collect(body, 0, found);
        }
        return found;
    }

    private void collect(Node node, int depth, List<Node> into) {
        List<String> steps = rows.steps();
        for (Node child : node.children()) {
            if (child.name().local().equals(steps.get(depth))) {
                if (depth == steps.size() - 1) {
                    into.add(child);
                } else {
                    collect(child, depth + 1, into);
                }
            }
        }
    }

    private static WirePath rows(CallStage stage, Compilation at) {
        try {
            WirePath path = WirePath.parse(String.valueOf(stage.pages().rows()));
            if (path.variable().equals(stage.as()) && !path.steps().isEmpty()) {
                return path;
            }
        } catch (IllegalArgumentException e) {
            // said below
        }
        at.problem(
                stage.id(),
                (at.isSource(stage.id())
                                ? "say which element of the reply is a record"
                                : "pages: say which element of the reply repeats")
                        + ", as $" + stage.as() + "/list/loan");
        return null;
    }

    private static Expressions.Compiled expression(
            CallStage stage, String what, String text, Reach reach, Compilation at) {
        if (text == null || text.isBlank()) {
            return null;
        }
        try {
            return at.around().context().expressions().compile(text, reach.names());
        } catch (ExpressionProblem e) {
            at.problem(stage.id(), "pages: " + what + ": " + e.getMessage());
            return null;
        }
    }
}
