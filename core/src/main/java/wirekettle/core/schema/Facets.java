package wirekettle.core.schema;

import java.util.List;

/**
 * Constraining facets of a simple type (XML Schema 1.0 part 2, 4.3); null or empty where not given.
 *
 * @param enumeration the only values allowed
 * @param patterns alternatives; one must match
 * @param length exact length in characters, bytes or items
 * @param minLength least length
 * @param maxLength most length
 * @param minInclusive least value
 * @param maxInclusive greatest value
 * @param minExclusive value must be greater
 * @param maxExclusive value must be less
 * @param totalDigits most digits
 * @param fractionDigits most digits after the point
 * @param whiteSpace preserve, replace or collapse
 */
public record Facets(
        List<String> enumeration,
        List<String> patterns,
        Integer length,
        Integer minLength,
        Integer maxLength,
        String minInclusive,
        String maxInclusive,
        String minExclusive,
        String maxExclusive,
        Integer totalDigits,
        Integer fractionDigits,
        String whiteSpace) {
    /** No facet at all. */
    public static final Facets NONE =
            new Facets(List.of(), List.of(), null, null, null, null, null, null, null, null, null, null);
}
