package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.SerializationFeature;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Consumer;
import java.util.function.UnaryOperator;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.fill.Fill;

/**
 * A flow as one JSON document; its schema is docs/flow-file.schema.json.
 *
 * @param format the version of the file's form, now 2
 * @param name the flow's name
 * @param before what is run once before the first record; what it makes is in reach of all records
 * @param stages what is run for each record, in order of execution
 * @param after what is run once after the last record, or null
 * @param lane what happens when a record fails at any stage and no nearer lane takes it, or null
 * @param brake when a run stops by itself because too many records are rejected, or null for never
 * @param runbook what whoever is on duty should know and do, in words, or null
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record FlowFile(
        int format,
        String name,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<Stage> before,
        List<Stage> stages,
        AfterLast after,
        Lane lane,
        Brake brake,
        String runbook) {
    /** The version written. */
    public static final int FORMAT = 2;

    private static final Pattern VALUE = Pattern.compile("\\$env/([A-Za-z_](?:[A-Za-z0-9_.-]*[A-Za-z0-9_])?)");

    private static final ObjectMapper JSON = new ObjectMapper()
            .enable(SerializationFeature.INDENT_OUTPUT)
            .enable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES);

    /** Keeps its own copy of the stages. */
    public FlowFile {
        before = before == null ? List.of() : List.copyOf(before);
        stages = stages == null ? List.of() : List.copyOf(stages);
    }

    /** Makes a flow without a brake and a runbook. */
    public FlowFile(int format, String name, List<Stage> before, List<Stage> stages, AfterLast after, Lane lane) {
        this(format, name, before, stages, after, lane, null, null);
    }

    /** Makes a flow that runs nothing before the first record and after the last. */
    public FlowFile(int format, String name, List<Stage> stages, Lane lane) {
        this(format, name, null, stages, null, lane, null, null);
    }

    /** Returns a flow without a lane of its own. */
    public static FlowFile of(String name, Stage... stages) {
        return new FlowFile(FORMAT, name, List.of(stages), null);
    }

    /**
     * Reads a flow file; one of format 1 becomes what it means in this format.
     *
     * @throws IllegalArgumentException naming line and column of what is wrong
     */
    public static FlowFile parse(String json) {
        try {
            JsonNode read = JSON.readTree(json);
            int format = read.path("format").asInt();
            if (format == 1) {
                return JSON.treeToValue(Format1.raised(read), FlowFile.class);
            }
            if (format != FORMAT) {
                throw new IllegalArgumentException(
                        "the flow file has format " + format + "; this version reads formats 1 and " + FORMAT);
            }
            // from the text, so that what is wrong has a line
            return JSON.readValue(json, FlowFile.class);
        } catch (JsonProcessingException e) {
            String at = e.getLocation() == null
                    ? ""
                    : " at line " + e.getLocation().getLineNr() + " column "
                            + e.getLocation().getColumnNr();
            throw new IllegalArgumentException("the flow file cannot be read" + at + ": " + e.getOriginalMessage());
        }
    }

    /** Returns this file with a stage in the place of the one of the same id, wherever it stands. */
    public FlowFile with(Stage stage) {
        return mapped(each -> replaced(each, stage));
    }

    private FlowFile mapped(UnaryOperator<Stage> change) {
        return new FlowFile(
                format,
                name,
                before.stream().map(change).toList(),
                stages.stream().map(change).toList(),
                after == null ? null : after.mapped(change),
                Lane.mapped(lane, change),
                brake,
                runbook);
    }

    /** Returns this file with other fills at a stage, or at the rule of a lane that uses a value. */
    public FlowFile filled(String id, List<Fill> fills) {
        FlowFile changed = mapped(each -> filled(each, id, fills));
        return new FlowFile(
                format,
                name,
                changed.before,
                changed.stages,
                changed.after,
                Lane.filled(changed.lane, id, fills),
                brake,
                runbook);
    }

    private static Stage filled(Stage at, String id, List<Fill> fills) {
        boolean here = at.id().equals(id) || id.equals(SplitStage.gathering(at.id()));
        Stage whole = here ? at.filled(fills) : at;
        Stage inside = whole.mapped(inner -> filled(inner, id, fills));
        boolean its = inside.lane() != null
                && inside.lane().rules().stream().anyMatch(rule -> rule.id().equals(id));
        return its ? inside.failing(Lane.filled(inside.lane(), id, fills)) : inside;
    }

    private static Stage replaced(Stage at, Stage by) {
        return at.id().equals(by.id()) ? by : at.mapped(inner -> replaced(inner, by));
    }

    /** Returns the file's text. */
    public String text() {
        try {
            return JSON.writeValueAsString(this);
        } catch (JsonProcessingException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Returns all its stages, outer ones before those within them, those of lanes after the stage they belong to. */
    public List<Stage> all() {
        List<Stage> found = new ArrayList<>();
        walk(before, found::add);
        walk(stages, found::add);
        walk(after == null ? List.of() : after.stages(), found::add);
        walk(lane == null ? List.of() : lane.stages(), found::add);
        return found;
    }

    private static void walk(List<Stage> stages, Consumer<Stage> seen) {
        for (Stage stage : stages) {
            seen.accept(stage);
            walk(stage.inside(), seen);
        }
    }

    /** Returns all stages of a kind, wherever they stand. */
    public <T> List<T> all(Class<T> kind) {
        return all().stream().filter(kind::isInstance).map(kind::cast).toList();
    }

    /** Returns a stage by its id, wherever it stands. */
    public Optional<Stage> stage(String id) {
        return all().stream().filter(stage -> stage.id().equals(id)).findFirst();
    }

    /** Returns the fills of all its stages and of the rules of their lanes, by id. */
    public Map<String, List<Fill>> fillsById() {
        Map<String, List<Fill>> fills = new LinkedHashMap<>();
        all().forEach(stage -> {
            fills.put(stage.id(), stage.fills());
            if (stage.lane() != null) {
                stage.lane().rules().forEach(rule -> fills.put(rule.id(), rule.fills()));
            }
        });
        return fills;
    }

    /** Returns the fills of all its stages and of the rules of their lanes. */
    public List<Fill> fills() {
        return fillsById().values().stream().flatMap(List::stream).toList();
    }

    /** Returns the names of the folders its fills send files from and write files to. */
    public Set<String> folders() {
        Set<String> names = new TreeSet<>();
        for (Fill fill : fills()) {
            if (fill.file() != null && fill.file().folder() != null) {
                names.add(fill.file().folder());
            }
        }
        return names;
    }

    /** Returns the names of the environment's values that wires and expressions of it use. */
    public Set<String> values() {
        Set<String> names = new TreeSet<>();
        Matcher used = VALUE.matcher(text());
        while (used.find()) {
            names.add(used.group(1));
        }
        return names;
    }

    /**
     * Returns the Write stage whose rows are the flow's results: the first that no failure lane and no undo holds, else
     * the first of all.
     */
    public Optional<WriteStage> results() {
        return results(stages).or(() -> all(WriteStage.class).stream().findFirst());
    }

    private static Optional<WriteStage> results(List<Stage> stages) {
        for (Stage stage : stages) {
            if (stage instanceof WriteStage write) {
                return Optional.of(write);
            }
            List<Stage> within = new ArrayList<>(stage instanceof CallStage ? List.of() : stage.inside());
            within.removeAll(stage.lane() == null ? List.of() : stage.lane().stages());
            Optional<WriteStage> found = results(within);
            if (found.isPresent()) {
                return found;
            }
        }
        return Optional.empty();
    }

    /** Returns the ids of the calls of records with a rule that asks what became of them, but for those in a Batch. */
    public List<String> asking() {
        List<String> found = new ArrayList<>();
        calls(stages, call -> {
            boolean asks =
                    call.lane() != null && call.lane().rules().stream().anyMatch(rule -> rule.then() == Lane.Then.ASK);
            if (asks) {
                found.add(call.id());
            }
        });
        return found;
    }

    /** Returns the calls of records that change data and have nothing that takes it back, those of a Batch too. */
    public List<CallStage> irreversible() {
        List<CallStage> found = new ArrayList<>();
        Consumer<CallStage> seen = call -> {
            if (!call.delivery().reads() && call.undo().isEmpty()) {
                found.add(call);
            }
        };
        calls(stages, seen);
        for (BatchStage batch : all(BatchStage.class)) {
            walk(batch.inside(), each -> {
                if (each instanceof CallStage call && !call.delivery().reads()) {
                    found.add(call);
                }
            });
        }
        return found;
    }

    /** Goes through the calls of stages, but for those within a Batch and those that take something back. */
    private static void calls(List<Stage> stages, Consumer<CallStage> seen) {
        for (Stage stage : stages) {
            if (stage instanceof CallStage call) {
                seen.accept(call);
                calls(call.lane() == null ? List.of() : call.lane().stages(), seen);
            } else if (!(stage instanceof BatchStage)) {
                calls(stage.inside(), seen);
            }
        }
    }

    /** Returns the Read stage that gives the flow its records, empty when there is none yet. */
    public Optional<ReadStage> source() {
        return stages.stream()
                .filter(ReadStage.class::isInstance)
                .map(ReadStage.class::cast)
                .findFirst();
    }
}
