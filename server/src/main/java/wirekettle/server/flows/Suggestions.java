package wirekettle.server.flows;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import wirekettle.core.assist.MessageSuggestions;
import wirekettle.core.assist.Suggester;
import wirekettle.core.assist.SuggestionSources;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.Reach;
import wirekettle.core.flow.compile.Sketch;
import wirekettle.core.flow.compile.Variable;
import wirekettle.core.flow.file.MakesRecord;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.record.DocumentPlan;
import wirekettle.core.record.ScalarCheck;
import wirekettle.core.value.Column;
import wirekettle.core.value.Grouping;
import wirekettle.core.value.Layout;
import wirekettle.core.value.ValueFormat;

/** Fills proposed for a stage of a flow, from everything in reach there. */
@ApplicationScoped
class Suggestions {
    @Inject
    FlowContext context;

    @Inject
    FlowRecords flowRecords;

    @Inject
    Previewer previewer;

    @Inject
    AcceptedWires accepted;

    /** Proposes fills of a request. */
    List<MessageSuggestions.Proposed> ofRequest(long id, CompiledFlow flow, CompiledCall call, String environment)
            throws IOException {
        ReadStage read = flow.source().stage();
        List<String> variables = new ArrayList<>();
        for (Variable variable : flow.at(call.id()).variables()) {
            if (variable.stage() != null) {
                variables.add(variable.name());
            }
        }
        SuggestionSources from = new SuggestionSources(
                whole(flow.at(call.id()), previewer.scopes(id, flow, call, environment)),
                variables,
                read.groupBy().isEmpty() ? null : "$" + read.as() + "/" + Grouping.LINE,
                formats(flow)::get,
                accepted.of(call.stage(), read));
        return MessageSuggestions.of(call.requestSheets(), call.stage().fills(), from, context.mapping(flow.file()));
    }

    /** Puts into samples what they do not have, without values; where no sample comes, what is in reach stands in. */
    private static List<Scope> whole(Reach reach, List<Scope> samples) {
        List<Scope> whole = new ArrayList<>();
        for (Scope sample : samples.isEmpty() ? List.of(Scope.empty()) : samples) {
            Scope at = sample;
            for (Variable variable : reach.variables()) {
                at = at.get(variable.name()) == null ? at.with(variable.name(), Sketch.of(variable)) : at;
            }
            whole.add(at);
        }
        return whole;
    }

    /** The formats a dataset's fields are written in, by path, in lines of grouped rows too. */
    private Map<String, ValueFormat> formats(CompiledFlow flow) {
        Map<String, ValueFormat> formats = new HashMap<>();
        Layout layout = flowRecords.layout(flow.source().stage());
        String record = "$" + flow.source().stage().as() + "/";
        for (Column column : layout == null ? List.<Column>of() : layout.columns()) {
            formats.put(record + column.name(), column.format());
            formats.put(record + Grouping.LINE + "/" + column.name(), column.format());
        }
        return formats;
    }

    /** Proposes fills of the columns a record has without one, in repeated levels of a document from what repeats. */
    List<MessageSuggestions.Proposed> ofRecord(
            long id, CompiledFlow flow, MakesRecord made, SampleResource.SampleRequest asked) throws IOException {
        Preview preview = previewer.preview(id, asked);
        Map<String, ValueFormat> formats = formats(flow);
        List<MessageSuggestions.Proposed> all = new ArrayList<>();
        List<DocumentPlan.Group> levels = new ArrayList<>(made.groups());
        levels.add(0, null);
        for (DocumentPlan.Group level : levels) {
            List<Suggester.Wanted> wanted = wanted(made, level);
            List<Suggester.Source> sources = wanted.isEmpty() ? List.of() : sources(preview, made, level, formats);
            for (Suggester.Suggestion each : Suggester.suggest(sources, wanted)) {
                Fill fill = Fill.wire("", each.target(), each.wire()).with(each.format());
                all.add(new MessageSuggestions.Proposed(fill, each.score(), each.reason(), null));
            }
        }
        return all;
    }

    /** The columns of a level that have no fill; the level is null for what stands once. */
    private static List<Suggester.Wanted> wanted(MakesRecord made, DocumentPlan.Group level) {
        Set<String> filled = new HashSet<>();
        made.fills().forEach(fill -> filled.add(fill.target()));
        List<Suggester.Wanted> wanted = new ArrayList<>();
        for (Column column : made.columns()) {
            String name = column.name();
            if (!filled.contains(name) && Objects.equals(level(made, name), level)) {
                wanted.add(new Suggester.Wanted(
                        name,
                        name.substring(name.lastIndexOf('/') + 1),
                        name.contains("/")
                                ? name.substring(0, name.lastIndexOf('/')).replace('/', ' ')
                                : "",
                        "",
                        ScalarCheck.rule(column.type()),
                        column.required()));
            }
        }
        return wanted;
    }

    /** The innermost repeated level a place of a document is in, null for none. */
    private static DocumentPlan.Group level(MakesRecord made, String place) {
        return made.groups().stream()
                .filter(group -> (place + "/").startsWith(group.name() + "/"))
                .max(Comparator.comparingInt(group -> group.name().length()))
                .orElse(null);
    }

    /** What a level can be filled from: what stands once in reach, or in each of the nodes the level is repeated for. */
    private static List<Suggester.Source> sources(
            Preview preview, MakesRecord made, DocumentPlan.Group level, Map<String, ValueFormat> formats) {
        Set<String> used = new HashSet<>();
        made.fills().forEach(fill -> used.add(fill.wire()));
        String inside = level == null ? null : start(made, level) + "/";
        String rows = level == null && made.rows() != null ? made.rows() + "/" : "";
        List<Suggester.Source> sources = new ArrayList<>();
        List<Preview.SourceGroup> nearestLast = new ArrayList<>(preview.sources());
        Collections.reverse(nearestLast);
        for (Preview.SourceGroup group : nearestLast) {
            String list = null;
            for (Preview.SourceField field : group.fields()) {
                String wire = field.wire();
                boolean listed = list != null && wire.startsWith(list + "/");
                boolean leads = rows.startsWith(wire + "/") || inside != null && inside.startsWith(wire + "/");
                if (!listed && field.repeats() && !leads) {
                    list = wire; // of what repeats beside the rows only one value would be taken
                    continue;
                }
                boolean its = inside == null || wire.startsWith(inside);
                String named = its && inside != null ? "$" + level.as() + "/" + wire.substring(inside.length()) : wire;
                if (!listed && its && !used.contains(named) && leaf(group, field)) {
                    List<String> seen = field.value().isEmpty() ? List.of() : List.of(field.value());
                    sources.add(new Suggester.Source(named, field.name(), formats.get(wire), seen));
                }
            }
        }
        return sources;
    }

    /** The path from a variable of the flow to the nodes a level is repeated for. */
    private static String start(MakesRecord made, DocumentPlan.Group level) {
        for (DocumentPlan.Group outer : made.groups()) {
            if (outer != level && level.repeat().startsWith("$" + outer.as() + "/")) {
                return start(made, outer) + level.repeat().substring(outer.as().length() + 1);
            }
        }
        return level.repeat();
    }

    private static boolean leaf(Preview.SourceGroup group, Preview.SourceField field) {
        return group.fields().stream().noneMatch(f -> f.wire().startsWith(field.wire() + "/"));
    }
}
