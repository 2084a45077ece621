package wirekettle.core.record;

import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.schema.BuiltIn;
import wirekettle.core.schema.SchemaSet;
import wirekettle.core.schema.TypeUse;
import wirekettle.core.schema.ValueRule;
import wirekettle.core.value.Name;
import wirekettle.core.value.ScalarType;

/** Checks the text of a target column against its type, by the lexical rules of XML Schema. */
public final class ScalarCheck {
    private static final Map<ScalarType, ValueRule> RULES = new EnumMap<>(ScalarType.class);

    static {
        SchemaSet none = wirekettle.core.schema.SchemaReader.read(List.of(), new java.util.ArrayList<>());
        RULES.put(ScalarType.INTEGER, none.rule(type("integer")));
        RULES.put(ScalarType.DECIMAL, none.rule(type("decimal")));
        RULES.put(ScalarType.BOOLEAN, none.rule(type("boolean")));
        RULES.put(ScalarType.DATE, none.rule(type("date")));
        RULES.put(ScalarType.DATETIME, none.rule(type("dateTime")));
        RULES.put(ScalarType.TIME, none.rule(type("time")));
    }

    private ScalarCheck() {}

    private static TypeUse type(String local) {
        return TypeUse.named(new Name(BuiltIn.XSD, local));
    }

    /** Returns what a column of a type may hold, null for any text. */
    public static ValueRule rule(ScalarType type) {
        return RULES.get(type);
    }

    static String problem(ScalarType type, String value) {
        ValueRule rule = RULES.get(type);
        return rule == null ? null : rule.problem(value);
    }
}
