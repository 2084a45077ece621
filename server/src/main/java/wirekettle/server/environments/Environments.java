package wirekettle.server.environments;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import wirekettle.server.web.Problem;

/** Knows the environments there are. */
@ApplicationScoped
public class Environments {
    /** The environment simulators answer in; it is always there. */
    public static final String SIMULATOR = "Simulator";

    @Inject
    EnvironmentMapper mapper;

    /** Returns all in their order. */
    public List<Environment> all() {
        return mapper.all().stream().map(EnvironmentMapper.Row::environment).toList();
    }

    /** Returns their names in their order. */
    public List<String> names() {
        return all().stream().map(Environment::name).toList();
    }

    /** Returns one; a problem names those there are when there is none of the name. */
    public Environment named(String name) {
        EnvironmentMapper.Row row = name == null ? null : mapper.byName(name);
        if (row == null) {
            throw new Problem(
                    400,
                    "bad-environment",
                    "There is no environment “" + name + "”: there are " + String.join(", ", names()) + ".");
        }
        return row.environment();
    }

    /** Returns the named values of an environment, none for one that is not there. */
    public Map<String, String> values(String name) {
        EnvironmentMapper.Row row = name == null ? null : mapper.byName(name);
        return row == null ? Map.of() : row.environment().values();
    }

    /** Returns what stands for the datasets flows name in an environment; nothing for one that is not there. */
    public Map<String, String> datasets(String name) {
        EnvironmentMapper.Row row = name == null ? null : mapper.byName(name);
        return row == null ? Map.of() : row.environment().datasets();
    }

    /** Returns what stands for the secrets fills name in an environment; nothing for one that is not there. */
    public Map<String, String> secrets(String name) {
        EnvironmentMapper.Row row = name == null ? null : mapper.byName(name);
        return row == null ? Map.of() : row.environment().secrets();
    }

    /** Returns the names of the values of all environments. */
    public Set<String> valueNames() {
        Set<String> names = new TreeSet<>();
        all().forEach(each -> names.addAll(each.values().keySet()));
        return names;
    }

    /** Returns where something new is tried first: the first that is not live and no simulator, else the simulator. */
    public String first() {
        return all().stream()
                .filter(each -> !each.live() && !each.name().equals(SIMULATOR))
                .map(Environment::name)
                .findFirst()
                .orElse(SIMULATOR);
    }
}
