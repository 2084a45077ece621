package wirekettle.core.record;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.CompiledFill;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.FillFailure;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.fill.RepeatedNodes;
import wirekettle.core.value.DocumentForm;
import wirekettle.core.value.JsonText;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;
import wirekettle.core.value.ScalarType;
import wirekettle.core.value.XmlText;

/**
 * Turns what is in reach into one nested document a record, as JSON or XML. A column's name is its place in the
 * document, {@code crates/no}; a group repeats one level of it. Safe for several threads.
 */
public final class DocumentPlan implements RowMaker {
    /**
     * A level of the document that repeats.
     *
     * @param name its place, {@code crates}
     * @param repeat a path to repeated nodes
     * @param as the variable each of them is bound to
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record Group(String name, String repeat, String as) {}

    private static final class Level {
        private final Map<String, Level> levels = new LinkedHashMap<>();
        private final String place;
        private RepeatedNodes repeat;
        private CompiledFill fill;
        private RecordPlan.Target target;

        Level(String place) {
            this.place = place;
        }
    }

    private final Level root = new Level("");
    private final boolean json;
    private final List<MappingProblem> design = new ArrayList<>();
    private final List<String> names = new ArrayList<>();

    /** Compiles a document's columns. */
    public DocumentPlan(
            DocumentForm form,
            List<Group> groups,
            List<RecordPlan.Target> targets,
            Set<String> known,
            MappingContext context) {
        this.json = form != DocumentForm.XML;
        // the columns' order is the document's
        targets.forEach(target -> level(target.fill().target()));
        Map<String, Set<String>> inside = new LinkedHashMap<>();
        for (Group group : groups) {
            Set<String> here = inside(group.name(), inside, known);
            Fill repeat = Fill.repeat(group.name(), group.name(), group.repeat(), group.as());
            try {
                level(group.name()).repeat = RepeatedNodes.of(repeat, context.expressions(), here);
            } catch (ExpressionProblem e) {
                design.add(new MappingProblem(group.name(), "", null, "expression", e.getMessage()));
            }
            inside.put(group.name(), RepeatedNodes.inside(repeat, here));
        }
        for (RecordPlan.Target target : targets) {
            Fill fill = target.fill();
            names.add(fill.target());
            Level level = level(fill.target());
            level.target = target;
            try {
                level.fill = CompiledFill.of(fill, context, inside(fill.target(), inside, known));
            } catch (ExpressionProblem e) {
                design.add(new MappingProblem(fill.target(), "", fill.id(), "expression", e.getMessage()));
            }
        }
    }

    /** What is known at a place: the variables of every group around it. */
    private static Set<String> inside(String place, Map<String, Set<String>> groups, Set<String> known) {
        Set<String> best = known;
        for (Map.Entry<String, Set<String>> group : groups.entrySet()) {
            best = place.startsWith(group.getKey() + "/") ? group.getValue() : best;
        }
        return best;
    }

    private Level level(String place) {
        Level at = root;
        String path = "";
        for (String name : place.split("/")) {
            path = path.isEmpty() ? name : path + "/" + name;
            String here = path;
            at = at.levels.computeIfAbsent(name, n -> new Level(here));
        }
        return at;
    }

    @Override
    public List<MappingProblem> designProblems() {
        return List.copyOf(design);
    }

    @Override
    public List<String> names() {
        return List.copyOf(names);
    }

    @Override
    public List<String[]> rows(Scope scope, List<MappingProblem> problems) {
        Node document = node(scope, problems);
        String text = json ? JsonText.of(document, this::type) : NodeWriter.write(document, false);
        List<String[]> made = new ArrayList<>();
        made.add(new String[] {text});
        return made;
    }

    @Override
    public Node node(Scope scope, List<MappingProblem> problems) {
        return node("record", root, scope, problems);
    }

    @Override
    public boolean manyRows() {
        return false;
    }

    private Node node(String name, Level level, Scope scope, List<MappingProblem> problems) {
        Node.Builder made = Node.build(Name.of(name));
        if (level.fill != null) {
            made.text(value(level, scope, problems));
        }
        for (Map.Entry<String, Level> child : level.levels.entrySet()) {
            Level its = child.getValue();
            if (its.repeat == null) {
                made.add(node(child.getKey(), its, scope, problems));
                continue;
            }
            try {
                for (Node each : its.repeat.nodes(scope)) {
                    made.add(node(child.getKey(), its, its.repeat.scope(scope, each), problems));
                }
            } catch (FillFailure e) {
                problems.add(e.of(its.place, null));
            }
        }
        return made.done();
    }

    private static String value(Level level, Scope scope, List<MappingProblem> problems) {
        Fill fill = level.target.fill();
        try {
            String value = level.fill.column(scope);
            if (value == null || value.isEmpty()) {
                if (level.target.required()) {
                    problems.add(new MappingProblem(
                            fill.target(), "", fill.id(), "empty", "is required and there is no value for it"));
                }
                return "";
            }
            String wrong = ScalarCheck.problem(level.target.type(), value);
            if (wrong != null) {
                problems.add(new MappingProblem(fill.target(), value, fill.id(), "invalid", wrong));
            } else if (XmlText.firstInvalid(value) >= 0) {
                problems.add(new MappingProblem(
                        fill.target(), value, fill.id(), "invalid", "holds a character XML cannot carry"));
            }
            return value;
        } catch (FillFailure e) {
            problems.add(e.of(fill.target(), fill.id()));
            return "";
        }
    }

    private JsonText.Kind type(String place) {
        Level at = root;
        for (String name : place.split("/")) {
            at = at.levels.get(name);
        }
        if (at.target == null) {
            return at.repeat == null ? JsonText.Kind.OBJECT : JsonText.Kind.OBJECTS;
        }
        ScalarType type = at.target.type();
        boolean number = type == ScalarType.INTEGER || type == ScalarType.DECIMAL;
        JsonText.Kind one =
                number ? JsonText.Kind.NUMBER : type == ScalarType.BOOLEAN ? JsonText.Kind.BOOLEAN : JsonText.Kind.TEXT;
        return at.repeat == null ? one : one.several();
    }
}
