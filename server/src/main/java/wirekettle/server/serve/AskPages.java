package wirekettle.server.serve;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.core.type.TypeReference;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.IOException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import org.jboss.logging.Logger;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.run.RecordSource;
import wirekettle.core.value.CodeTable;
import wirekettle.core.value.Column;
import wirekettle.core.value.JsonName;
import wirekettle.core.value.ScalarType;
import wirekettle.server.codes.CodeTableMapper;
import wirekettle.server.datasets.DatasetMapper;
import wirekettle.server.datasets.DatasetStore;
import wirekettle.server.triggers.TriggerSpec;
import wirekettle.server.web.Json;
import wirekettle.server.web.Problem;

/** The pages on which people type what they ask of a flow. */
@ApplicationScoped
class AskPages {
    private static final Logger LOG = Logger.getLogger(AskPages.class);
    private static final int MOST_PICKS = 1_000;
    private static final int MOST_ROWS = 100_000;

    @Inject
    CodeTableMapper codes;

    @Inject
    DatasetStore datasets;

    /**
     * A page as it is shown.
     *
     * @param trigger what it belongs to
     * @param path where its records are sent, behind {@code /serve/}
     * @param answer what comes back, for the heads of a table: the places of its fields
     */
    @Schema(
            name = "AskPage",
            requiredProperties = {"trigger", "path", "title", "note", "environment", "fields", "answer"})
    record View(
            long trigger,
            String path,
            String title,
            String note,
            String environment,
            List<Field> fields,
            List<Head> answer) {}

    /** A field of the answer. */
    @Schema(
            name = "AskHead",
            requiredProperties = {"name", "label"})
    record Head(String name, String label) {}

    /**
     * A field that is typed.
     *
     * @param picks what may be picked, null where anything may be typed
     * @param cut whether there are more to pick than are told
     */
    @Schema(
            name = "AskField",
            requiredProperties = {"name", "label", "type", "required", "hidden", "cut"})
    @JsonInclude(JsonInclude.Include.NON_NULL)
    record Field(
            String name,
            String label,
            ScalarType type,
            boolean required,
            String help,
            String preset,
            boolean hidden,
            List<Pick> picks,
            boolean cut) {}

    /** A value that may be picked. */
    @Schema(
            name = "AskPick",
            requiredProperties = {"value", "label"})
    record Pick(String value, String label) {}

    /**
     * Returns the page of a flow that answers.
     *
     * @throws Problem 404 where it has none, 409 where what it is sent is not flat
     */
    View of(Served served) {
        TriggerSpec.AskPage page = served.spec().page();
        if (page == null) {
            throw Problem.missing("page");
        }
        if (!served.flat()) {
            throw new Problem(
                    409,
                    "not-flat",
                    "What “" + served.file().name() + "” is sent has lists or levels: no page can be made of it.");
        }
        Map<String, TriggerSpec.AskField> said = page.fields().stream()
                .collect(Collectors.toMap(TriggerSpec.AskField::name, Function.identity(), (a, b) -> b));
        List<Field> fields = new ArrayList<>();
        for (Column column :
                served.file().source().map(ReadStage::input).orElseThrow().columns()) {
            TriggerSpec.AskField its = said.get(column.name());
            boolean hidden = its != null && Boolean.TRUE.equals(its.hidden());
            List<Pick> picks = its == null || hidden ? null : picks(its);
            boolean cut = picks != null && picks.size() > MOST_PICKS;
            String label = its == null || its.label() == null || its.label().isBlank() ? column.label() : its.label();
            fields.add(new Field(
                    JsonName.member(column.name()),
                    label == null ? column.name() : label,
                    column.type(),
                    column.required(),
                    its == null ? null : its.help(),
                    its == null ? null : its.preset(),
                    hidden,
                    cut ? picks.subList(0, MOST_PICKS) : picks,
                    cut));
        }
        List<Head> answer = served.file().all(AnswerStage.class).stream()
                .filter(each -> served.file().stages().contains(each))
                .flatMap(each -> each.columns().stream())
                .map(each -> new Head(each.name(), each.label() == null ? each.name() : each.label()))
                .toList();
        String title =
                page.title() == null || page.title().isBlank() ? served.file().name() : page.title();
        return new View(
                served.trigger(),
                served.spec().path(),
                title,
                page.note() == null ? "" : page.note(),
                served.environment(),
                fields,
                answer);
    }

    /** Returns what may be picked, one more than are told where there are more; null for anything. */
    private List<Pick> picks(TriggerSpec.AskField field) {
        Map<String, String> all = new LinkedHashMap<>();
        try {
            if (field.codes() != null) {
                CodeTableMapper.Row row = codes.byName(field.codes());
                List<CodeTable.Entry> entries =
                        row == null ? List.of() : Json.read(row.entries(), new TypeReference<>() {});
                entries.forEach(each -> all.putIfAbsent(each.code(), each.code() + " – " + each.value()));
            } else if (field.dataset() != null) {
                read(datasets.named(field.dataset()), field, all);
            } else {
                return null;
            }
        } catch (IOException | Problem e) {
            // people can type it all the same
            LOG.warnf("“%s” cannot be read for a page: %s", field.dataset(), e.getMessage());
            return null;
        }
        return all.entrySet().stream()
                .map(each -> new Pick(each.getKey(), each.getValue()))
                .toList();
    }

    private void read(DatasetMapper.Row row, TriggerSpec.AskField field, Map<String, String> into) throws IOException {
        try (RecordSource source = datasets.open(row)) {
            RecordSource.Item item = source.next();
            for (int n = 0; item != null && n < MOST_ROWS && into.size() <= MOST_PICKS; n++) {
                String value = item.node() == null ? "" : item.node().textOf(field.column());
                String shown = field.shown() == null || item.node() == null
                        ? ""
                        : item.node().textOf(field.shown());
                if (value != null && !value.isBlank()) {
                    into.putIfAbsent(value, shown == null || shown.isBlank() ? value : value + " – " + shown);
                }
                item = source.next();
            }
        }
    }
}
