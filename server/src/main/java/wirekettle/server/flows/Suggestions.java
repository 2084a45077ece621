package wirekettle.server.flows;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.assist.MessageSuggestions;
import wirekettle.core.assist.Suggester;
import wirekettle.core.assist.SuggestionSources;
import wirekettle.core.fill.Fill;
import wirekettle.core.flow.compile.CompiledCall;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.Variable;
import wirekettle.core.flow.file.MakesRecord;
import wirekettle.core.flow.file.ReadStage;
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
                previewer.scopes(id, flow, call, environment),
                variables,
                read.groupBy().isEmpty() ? null : "$" + read.as() + "/" + Grouping.LINE,
                formats(flow)::get,
                accepted.of(call.stage(), read));
        return MessageSuggestions.of(call.requestSheets(), call.stage().fills(), from, context.mapping(flow.file()));
    }

    /** The formats a dataset's fields are written in, by path, in lines of grouped rows too. */
    private Map<String, ValueFormat> formats(CompiledFlow flow) {
        Map<String, ValueFormat> formats = new HashMap<>();
        Layout layout = context.layout(flow.source().stage());
        String record = "$" + flow.source().stage().as() + "/";
        for (Column column : layout == null ? List.<Column>of() : layout.columns()) {
            formats.put(record + column.name(), column.format());
            formats.put(record + Grouping.LINE + "/" + column.name(), column.format());
        }
        return formats;
    }

    /** Proposes fills of the columns a record has without one. */
    List<MessageSuggestions.Proposed> ofRecord(
            long id, CompiledFlow flow, MakesRecord write, SampleResource.SampleRequest asked) throws IOException {
        Set<String> filled = new HashSet<>();
        Set<String> used = new HashSet<>();
        for (Fill fill : write.fills()) {
            filled.add(fill.target());
            used.add(fill.wire());
        }
        List<Suggester.Wanted> wanted = new ArrayList<>();
        for (Column column : write.document() == null ? write.columns() : List.<Column>of()) {
            if (!filled.contains(column.name())) {
                wanted.add(new Suggester.Wanted(
                        column.name(), column.name(), "", "", ScalarCheck.rule(column.type()), column.required()));
            }
        }
        Map<String, ValueFormat> formats = formats(flow);
        List<Suggester.Source> sources = new ArrayList<>();
        Preview preview = previewer.preview(id, asked);
        for (Preview.SourceGroup group : preview.sources()) {
            String list = null;
            for (Preview.SourceField field : group.fields()) {
                boolean inside = list != null && field.wire().startsWith(list + "/");
                boolean row = write.rows() != null && (write.rows() + "/").startsWith(field.wire() + "/");
                if (!inside && field.repeats() && !row) {
                    list = field.wire(); // of what repeats beside the rows only one value would be taken
                } else if (!inside && !used.contains(field.wire()) && leaf(group, field)) {
                    List<String> seen = field.value().isEmpty() ? List.of() : List.of(field.value());
                    sources.add(new Suggester.Source(field.wire(), field.name(), formats.get(field.wire()), seen));
                }
            }
        }
        return Suggester.suggest(sources, wanted).stream()
                .map(s -> new MessageSuggestions.Proposed(
                        Fill.wire("", s.target(), s.wire()).with(s.format()), s.score(), s.reason(), null))
                .toList();
    }

    private static boolean leaf(Preview.SourceGroup group, Preview.SourceField field) {
        return group.fields().stream().noneMatch(f -> f.wire().startsWith(field.wire() + "/"));
    }
}
