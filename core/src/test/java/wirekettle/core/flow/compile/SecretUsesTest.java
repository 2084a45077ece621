package wirekettle.core.flow.compile;

import static org.testng.Assert.assertEquals;

import java.util.List;
import java.util.Set;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.fill.Fill;

public class SecretUsesTest {
    @DataProvider
    public Object[][] expressions() {
        return new Object[][] {
            {"wire:hmac($loan/a, 'desk key', 'SHA-256')", Set.of("desk key")},
            {"wire:hmac(concat('(,', $a, \"')\"), \"it's one\", 'SHA-256')", Set.of("it's one")},
            {"wire:hmac($a[b = 'x, y'], 'their ''own'' key', 'SHA-1')", Set.of("their 'own' key")},
            {"concat(wire:hmac(wire:hmac('a', 'in', 'SHA-256'), 'out', 'SHA-256'))", Set.of("out", "in")},
            {"wire:hmac('a', $loan/key, 'SHA-256')", Set.of()},
            {"wire:hmac('a', 'x' || 'y', 'SHA-256')", Set.of()},
            {"wire:hmac('half", Set.of()},
            {"wire:hash('a', 'SHA-256')", Set.of()},
        };
    }

    @Test(dataProvider = "expressions")
    public void theNamesAnExpressionAsksForAreKnown(String expression, Set<String> names) {
        assertEquals(SecretUses.of(List.of(Fill.expression("f", "/a", expression))), names);
    }
}
