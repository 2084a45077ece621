package wirekettle.core.flow.run;

import java.util.Map;
import java.util.TreeMap;
import wirekettle.core.expression.Scope;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/**
 * What a run is called in {@code $run}, and the named values of its environment in {@code $env}.
 *
 * @param run its id
 * @param source the name of the file or table read
 * @param file the name of the file that started it, empty where none did
 * @param values the named values of its environment
 */
public record RunNames(String run, String source, String file, Map<String, String> values) {
    /** Keeps its own copy. */
    public RunNames {
        file = file == null ? "" : file;
        values = Map.copyOf(values);
    }

    /** Names a run that no file started, in an environment without named values. */
    public RunNames(String run, String source) {
        this(run, source, "", Map.of());
    }

    /** Returns {@code $run} as it begins. */
    Node.Builder node() {
        return Node.build(Name.of("run")).add("id", run).add("source", source).add("file", file);
    }

    /** Returns the variables in reach before anything was made. */
    Scope scope(Doors doors, Node its) {
        Node.Builder env = Node.build(Name.of("env"));
        new TreeMap<>(values).forEach(env::add);
        return Scope.of(Secrets.NONE, doors.folders()).with("run", its).with("env", env.done());
    }
}
