package wirekettle.core.assist;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.ValueFormat;

public class SuggesterTest {
    private static Suggester.Source source(String name, ValueFormat format, String... samples) {
        return new Suggester.Source("$loan/" + name, name, format, List.of(samples));
    }

    @Test
    public void theRegisterIsFilledFromLoansWithFormatsAndReasons() {
        Contract register = World.register();
        List<Suggester.Wanted> wanted = new ArrayList<>();
        for (SheetField f : register.sheet(
                        register.operations().get(0).operation().input().body().get(0))
                .children()) {
            wanted.add(new Suggester.Wanted(
                    f.path(), f.name().local(), "LookUpInstitution", f.documentation(), f.rule(), f.required()));
        }
        List<Suggester.Suggestion> found = Suggester.suggest(
                List.of(
                        source("loan_no", null, "HC-20481"),
                        source("crate_no", null, "HC-20481-1"),
                        source("institution_no", null, "RG-10400"),
                        source("remark", null, "Keep upright"),
                        source("collect_on", ValueFormat.date("dd.MM.yyyy"), "04.12.2026"),
                        source("insured_value", ValueFormat.number(",", null), "96,5")),
                wanted);
        Map<String, Suggester.Suggestion> byName = new HashMap<>();
        found.forEach(s -> byName.put(s.target().substring(s.target().lastIndexOf('}') + 1), s));
        assertEquals(byName.get("registrationNumber").wire(), "$loan/institution_no");
        assertEquals(byName.get("loanReference").wire(), "$loan/loan_no");
        assertEquals(byName.get("insuredValue").format(), ValueFormat.number(",", null));
        assertEquals(byName.get("collectOn").format(), ValueFormat.date("dd.MM.yyyy"));
        assertTrue(
                byName.get("collectOn").reason().startsWith("same name"),
                byName.get("collectOn").reason());
        assertTrue(!byName.containsKey("purpose"), "nothing is like the purpose");
    }

    @Test
    public void theAssignmentIsTheBestOfAll() {
        Random random = new Random(7);
        for (int round = 0; round < 60; round++) {
            int rows = 1 + random.nextInt(5);
            int columns = 1 + random.nextInt(5);
            double[][] gain = new double[rows][columns];
            for (double[] row : gain) {
                for (int i = 0; i < columns; i++) {
                    row[i] = random.nextInt(4) == 0 ? 0 : random.nextDouble();
                }
            }
            int[] chosen = Assignment.best(gain, columns);
            double total = 0;
            for (int r = 0; r < rows; r++) {
                total += chosen[r] < 0 ? 0 : gain[r][chosen[r]];
            }
            assertEquals(total, brute(gain, 0, new boolean[columns]), 1e-9);
        }
    }

    private static double brute(double[][] gain, int row, boolean[] used) {
        if (row == gain.length) {
            return 0;
        }
        double best = brute(gain, row + 1, used);
        for (int c = 0; c < used.length; c++) {
            if (!used[c]) {
                used[c] = true;
                best = Math.max(best, gain[row][c] + brute(gain, row + 1, used));
                used[c] = false;
            }
        }
        return best;
    }

    @Test
    public void whatARecordAndItsItemBothHoldIsProposedFromTheItem() {
        List<Suggester.Wanted> wanted =
                List.of(new Suggester.Wanted("/t/institution", "institution_no", "Booking", "", null, true));
        Suggester.Source record = new Suggester.Source("$loan/institution_no", "institution_no", null, List.of("RG-1"));
        Suggester.Source item = new Suggester.Source("$line/institution_no", "institution_no", null, List.of("RG-1"));
        List<Suggester.Suggestion> found = Suggester.suggest(List.of(record, item), wanted);
        assertEquals(found.get(0).wire(), "$line/institution_no");
        assertTrue(found.get(0).score() >= Suggester.ACCEPT_BAR, "one value, no doubt: " + found);

        Suggester.Source other = new Suggester.Source("$line/institution_no", "institution_no", null, List.of("RG-2"));
        double doubted = Suggester.suggest(List.of(record, other), wanted).stream()
                .mapToDouble(Suggester.Suggestion::score)
                .max()
                .orElse(0);
        assertTrue(doubted < found.get(0).score(), "two values, less sure: " + doubted);
    }
}
