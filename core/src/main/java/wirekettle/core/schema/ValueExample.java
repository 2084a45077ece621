package wirekettle.core.schema;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;

/** Finds a value a rule accepts: candidates from every facet are tried until one passes the rule itself. */
final class ValueExample {
    private final ValueRule rule;
    private final List<Facets> facets;
    private final ValueRule item;
    private final List<ValueRule> members;

    ValueExample(ValueRule rule, List<Facets> facets, ValueRule item, List<ValueRule> members) {
        this.rule = rule;
        this.facets = facets;
        this.item = item;
        this.members = members;
    }

    String make() {
        for (String candidate : candidates()) {
            if (candidate != null && rule.problem(candidate) == null) {
                return candidate;
            }
        }
        return null;
    }

    private List<String> candidates() {
        List<String> candidates = new ArrayList<>(rule.enumeration());
        if (item != null) {
            String one = item.example();
            if (one != null) {
                candidates.add((one + " ").repeat(Math.max(1, rule.minLength())).strip());
            }
            return candidates;
        }
        members.forEach(member -> candidates.add(member.example()));
        candidates.add(rule.builtIn().example());
        int max = rule.maxLength() < 0 ? Integer.MAX_VALUE : rule.maxLength();
        for (int i = facets.size() - 1; i >= 0; i--) {
            for (String pattern : facets.get(i).patterns()) {
                PatternExample.of(pattern, rule.minLength(), max).ifPresent(candidates::add);
            }
        }
        for (Facets step : facets) {
            candidates.add(step.minInclusive());
            candidates.add(step.maxInclusive());
            nextTo(candidates, step.minExclusive(), 1);
            nextTo(candidates, step.maxExclusive(), -1);
        }
        switch (rule.builtIn().family()) {
            case HEX -> candidates.add("0A".repeat(Math.max(1, rule.minLength())));
            case BASE64 -> candidates.add(
                    java.util.Base64.getEncoder().encodeToString(new byte[Math.max(1, rule.minLength())]));
            case DECIMAL, INTEGER, FLOAT -> candidates.addAll(List.of("1", "0", "10", "100", "-1", "0.1"));
            case STRING, TOKEN -> {
                candidates.add("text".repeat(1 + rule.minLength() / 4).substring(0, Math.max(1, rule.minLength())));
                candidates.add("");
            }
            default -> {}
        }
        return candidates;
    }

    private void nextTo(List<String> candidates, String bound, int direction) {
        if (bound == null) {
            return;
        }
        try {
            BigDecimal number = new BigDecimal(bound);
            candidates.add(number.add(BigDecimal.valueOf(direction)).toPlainString());
            candidates.add(number.add(BigDecimal.valueOf(direction, 2)).toPlainString());
        } catch (NumberFormatException e) {
            candidates.add(bound.replaceFirst("^\\d{4}", direction > 0 ? "2999" : "1001"));
        }
    }
}
