package wirekettle.core.flow.file;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.SerializationFeature;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import wirekettle.core.fill.Fill;

/**
 * A flow as one JSON document; its schema is docs/flow-file.schema.json.
 *
 * @param format the version of the file's form, now 1
 * @param name the flow's name
 * @param stages the outline, in order of execution
 */
public record FlowFile(int format, String name, List<Stage> stages) {
    /** The version written. */
    public static final int FORMAT = 1;

    private static final ObjectMapper JSON = new ObjectMapper()
            .enable(SerializationFeature.INDENT_OUTPUT)
            .enable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES);

    /** Keeps its own copy of the stages. */
    public FlowFile {
        stages = stages == null ? List.of() : List.copyOf(stages);
    }

    /**
     * Reads a flow file.
     *
     * @throws IllegalArgumentException naming line and column of what is wrong
     */
    public static FlowFile parse(String json) {
        try {
            FlowFile file = JSON.readValue(json, FlowFile.class);
            if (file.format() != FORMAT) {
                throw new IllegalArgumentException(
                        "the flow file has format " + file.format() + "; this version reads format " + FORMAT);
            }
            return file;
        } catch (JsonProcessingException e) {
            String at = e.getLocation() == null
                    ? ""
                    : " at line " + e.getLocation().getLineNr() + " column "
                            + e.getLocation().getColumnNr();
            throw new IllegalArgumentException("the flow file cannot be read" + at + ": " + e.getOriginalMessage());
        }
    }

    /** Returns this file with a stage in the place of the one of the same id. */
    public FlowFile with(Stage stage) {
        return new FlowFile(
                format,
                name,
                stages.stream().map(s -> s.id().equals(stage.id()) ? stage : s).toList());
    }

    /** Returns the file's text. */
    public String text() {
        try {
            return JSON.writeValueAsString(this);
        } catch (JsonProcessingException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Returns the fills of all its stages. */
    public List<Fill> fills() {
        List<Fill> all = new ArrayList<>();
        for (Stage stage : stages) {
            if (stage instanceof Stage.Call call) {
                all.addAll(call.fills());
                all.addAll(call.rejects() == null ? List.of() : call.rejects().fills());
            } else if (stage instanceof Stage.Write write) {
                all.addAll(write.fills());
            }
        }
        return all;
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

    /** Returns the first stage of a kind. */
    public <T extends Stage> Optional<T> first(Class<T> kind) {
        return stages.stream().filter(kind::isInstance).map(kind::cast).findFirst();
    }
}
