package wirekettle.core.schema;

import java.util.HashMap;
import java.util.Map;
import wirekettle.core.value.Name;

/** How many elements the named groups of some schemas have once the groups they refer to are put in their place. */
final class GroupSize {
    private static final int DEEPEST = 200;

    private final SchemaSet schemas;
    private final Map<Name, Long> known = new HashMap<>();

    private GroupSize(SchemaSet schemas) {
        this.schemas = schemas;
    }

    /** Returns the size of the largest group, at most {@link Integer#MAX_VALUE}. */
    static long largest(SchemaSet schemas) {
        GroupSize sizes = new GroupSize(schemas);
        return schemas.groups.keySet().stream()
                .mapToLong(name -> sizes.of(name, 0))
                .max()
                .orElse(0);
    }

    private long of(Name name, int depth) {
        Long size = known.get(name);
        if (size == null) {
            Particle group = schemas.group(name);
            if (depth > DEEPEST) {
                return Integer.MAX_VALUE;
            }
            known.put(name, 1L); // a group in itself is told elsewhere
            size = group == null ? 1 : of(group, depth);
            known.put(name, size);
        }
        return size;
    }

    private long of(Particle particle, int depth) {
        if (particle instanceof Particle.GroupRef ref) {
            return of(ref.name(), depth + 1);
        }
        if (particle instanceof Particle.Group group && depth <= DEEPEST) {
            long sum = 1;
            for (Particle part : group.parts()) {
                sum = Math.min(Integer.MAX_VALUE, sum + of(part, depth + 1));
            }
            return sum;
        }
        return 1;
    }
}
