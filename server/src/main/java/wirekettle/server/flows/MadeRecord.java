package wirekettle.server.flows;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.assist.FieldCoverage;
import wirekettle.core.assist.Fixes;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.flow.compile.Compiled;
import wirekettle.core.flow.compile.CompiledAnswer;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.CompiledLane;
import wirekettle.core.flow.compile.CompiledMap;
import wirekettle.core.flow.compile.CompiledSplit;
import wirekettle.core.flow.compile.CompiledWrite;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.MakesRecord;
import wirekettle.core.flow.file.SplitStage;
import wirekettle.core.record.RowMaker;
import wirekettle.core.record.ScalarCheck;
import wirekettle.core.schema.ValueRule;
import wirekettle.core.value.Column;
import wirekettle.core.value.Node;

/**
 * A record made by fills, as a preview shows it: of a Write, an Answer, a Map, or the value a lane's rule uses.
 *
 * @param made its columns and what fills them
 * @param rows what makes its rows, null when it cannot work
 */
record MadeRecord(MakesRecord made, RowMaker rows) {
    private static final Set<Lane.Then> MAKING = Set.of(Lane.Then.USE, Lane.Then.ASK);

    /** Returns what makes a record at a stage or rule, null where none is made by fills. */
    static MadeRecord of(CompiledFlow flow, String id) {
        CompiledLane.Rule rule = flow.rule(id);
        if (rule != null) {
            return MAKING.contains(rule.rule().then()) ? new MadeRecord(rule.rule(), rule.value()) : null;
        }
        for (CompiledSplit split : flow.all(CompiledSplit.class)) {
            if (id.equals(SplitStage.gathering(split.id()))) {
                return split.stage().gather() == null
                        ? null
                        : new MadeRecord(split.stage().gathered(), split.shape());
            }
        }
        Compiled stage = flow.stage(id);
        if (stage instanceof CompiledWrite write) {
            return new MadeRecord(write.stage(), write.rows());
        }
        if (stage instanceof CompiledAnswer answer) {
            return new MadeRecord(answer.stage(), answer.body());
        }
        return stage instanceof CompiledMap map && map.stage().language() == null
                ? new MadeRecord(map.stage(), map.record())
                : null;
    }

    /** Returns how every column fares over the samples that come to its stage. */
    Map<String, FieldCoverage> tally(String stage, Samples.Walks walks) {
        Map<String, FieldCoverage> tallies = new LinkedHashMap<>();
        if (rows == null) {
            return tallies;
        }
        List<String> names = rows.names();
        for (int place : walks.at(stage)) {
            List<MappingProblem> problems = new ArrayList<>();
            String[] its = first(walks.each().get(place).at(stage), problems);
            Map<String, MappingProblem> byColumn = new HashMap<>();
            problems.forEach(p -> byColumn.putIfAbsent(p.field(), p));
            for (int c = 0; c < names.size(); c++) {
                MappingProblem problem = byColumn.get(names.get(c));
                String value = problem != null ? problem.value() : its[c];
                tallies.computeIfAbsent(names.get(c), n -> new FieldCoverage())
                        .count(walks.set().numbers().get(place), value, problem == null ? null : problem.message());
            }
        }
        return tallies;
    }

    /** Returns the first value of each column, empty for none; in a document what stands at its place. */
    private String[] first(Scope scope, List<MappingProblem> problems) {
        List<String> names = rows.names();
        String[] values = new String[names.size()];
        if (made.document() == null) {
            List<String[]> all = rows.rows(scope, problems);
            for (int c = 0; c < values.length; c++) {
                values[c] = all.isEmpty() || all.get(0)[c] == null ? "" : all.get(0)[c];
            }
            return values;
        }
        Node document = rows.node(scope, problems);
        for (int c = 0; c < values.length; c++) {
            Node at = document;
            for (String step : names.get(c).split("/")) {
                at = at == null ? null : at.child(step);
            }
            values[c] = at == null ? "" : at.text();
        }
        return values;
    }

    /** Returns the rows for the sample; none when it does not come there. */
    List<List<String>> rows(Scope scope, List<MappingProblem> problems) {
        List<List<String>> all = new ArrayList<>();
        if (scope == null || rows == null) {
            return all;
        }
        for (String[] row : rows.rows(scope, problems)) {
            List<String> values = new ArrayList<>();
            for (String value : row) {
                values.add(value == null ? "" : value);
            }
            all.add(values);
        }
        return all;
    }

    /** Returns the value of every column for the sample, with what mends it where samples do not fit. */
    Map<String, Preview.FieldValue> columns(Map<String, FieldCoverage> tallies, Scope scope) {
        Map<String, Preview.FieldValue> fields = new LinkedHashMap<>();
        List<MappingProblem> problems = new ArrayList<>();
        String[] shown = scope == null || rows == null ? null : first(scope, problems);
        Map<String, MappingProblem> byColumn = new HashMap<>();
        problems.forEach(p -> byColumn.putIfAbsent(p.field(), p));
        Map<String, Column> columns = new HashMap<>();
        made.columns().forEach(c -> columns.put(c.name(), c));
        Map<String, Fill> fills = new HashMap<>();
        made.fills().forEach(f -> fills.put(f.target(), f));
        List<String> names = rows == null ? List.of() : rows.names();
        for (int c = 0; c < names.size(); c++) {
            String name = names.get(c);
            FieldCoverage tally = tallies.getOrDefault(name, new FieldCoverage());
            MappingProblem problem = byColumn.get(name);
            boolean wrong = problem != null && !problem.value().isEmpty();
            String value = wrong ? problem.value() : shown == null ? "" : shown[c];
            ValueRule rule = columns.containsKey(name)
                    ? ScalarCheck.rule(columns.get(name).type())
                    : null;
            Fill fill = fills.get(name);
            boolean mendable = tally.invalid() > 0 && rule != null && fill != null && fill.format() == null;
            Preview.Fix fix = mendable ? Preview.Fix.of(Fixes.best(tally.misfits(), rule, null, null)) : null;
            fields.put(name, Preview.FieldValue.of(tally, value, problem == null ? null : problem.message(), fix));
        }
        return fields;
    }
}
