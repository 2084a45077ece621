package wirekettle.core.flow.run;

import java.io.IOException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.FilledBy;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.compile.CompiledMap;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.Series;

/** Makes a record or document by a script or by fills; draws the numbers of series that its fills want. */
final class MapStep implements Step {
    private final CompiledMap map;
    private final Steps steps;

    MapStep(CompiledMap map, Steps steps) {
        this.map = map;
        this.steps = steps;
    }

    @Override
    public StepResult run(Item item) throws Failed {
        if (map.script() != null) {
            try {
                item.bind(map.stage().as(), map.script().result(item.scope()));
                return StepResult.ON;
            } catch (ExpressionProblem e) {
                String cause = "$" + map.stage().as() + " could not be made";
                String message = (e.line() > 0 ? "line " + e.line() + ": " : "") + e.getMessage();
                throw new Failed(Failure.of(FailureClass.MAPPING, cause, message, map.id()));
            }
        }
        if (map.record() == null) {
            String cause = "$" + map.stage().as() + " could not be made";
            throw new Failed(Failure.of(FailureClass.MAPPING, cause, "the stage is not sound", map.id()));
        }
        List<MappingProblem> problems = new ArrayList<>();
        Node made = map.record().node(map.draws().isEmpty() ? item.scope() : drawn(item), problems);
        if (!problems.isEmpty()) {
            throw new Failed(Failure.of(problems, map.id()));
        }
        item.bind(map.stage().as(), made);
        return StepResult.ON;
    }

    /** Draws the numbers and returns what is in reach with them; what was drawn before a crash is drawn no second time. */
    private Scope drawn(Item item) throws Failed {
        Node before = item.made(map.id());
        int year = 0;
        Node.Builder numbers = Node.build(Name.of("numbers"));
        for (Series series : map.draws()) {
            Node kept = before == null ? null : of(series, before);
            year = series.year(Instant.parse(item.replay().now()));
            long number;
            if (kept != null) {
                number = Long.parseLong(kept.textOf("number"));
                year = Integer.parseInt(kept.textOf("year"));
            } else {
                number = draw(series, year, item);
            }
            item.numbers().add(new DrawnNumber(series, number, year, item.path(), map.id(), DrawnNumber.Fate.OPEN));
            numbers.add(Node.build(Name.of("drawn"))
                    .add("series", series.name())
                    .add("number", Long.toString(number))
                    .add("year", Integer.toString(year))
                    .add("text", series.text(number, year))
                    .done());
        }
        Node all = numbers.done();
        item.makes(map.id(), all);
        Scope scope = item.scope().with(FilledBy.Number.DRAWN, all);
        steps.watch().adds(map.id(), item.path(), scope);
        return scope;
    }

    private static Node of(Series series, Node numbers) {
        for (Node each : numbers.children()) {
            if (series.name().equals(each.textOf("series"))) {
                return each;
            }
        }
        return null;
    }

    private long draw(Series series, int year, Item item) throws Failed {
        if (item.halt() != null) {
            throw new Failed(item.halt().failure(), false);
        }
        try {
            return steps.doors().numbers().draw(series, year, new Numbers.Place(item.ordinal(), item.path(), map.id()));
        } catch (IOException e) {
            throw new Failed(Failure.of(
                    FailureClass.CONNECTION,
                    "no number drawn",
                    "no number of the series “" + series.name() + "” can be drawn: " + e.getMessage(),
                    map.id()));
        }
    }
}
