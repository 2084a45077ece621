package wirekettle.core.flow.file;

import static org.testng.Assert.assertEquals;

import java.util.List;
import org.testng.annotations.Test;

/** What is shown before one revision takes the place of another. */
public class FlowDifferenceTest {
    private static final String BEFORE =
            """
            {"format": 2, "name": "Book", "stages": [
              {"verb": "Read", "id": "r", "dataset": "loans", "as": "loan"},
              {"verb": "Filter", "id": "f", "name": "dear ones", "when": "$loan/value > 10"},
              {"verb": "Write", "id": "w", "dataset": "booked", "mode": "append", "fills": [
                {"id": "1", "target": "no", "wire": "$loan/number"},
                {"id": "2", "target": "old", "wire": "$loan/old"}]}]}
            """;
    private static final String AFTER =
            """
            {"format": 2, "name": "Book", "stages": [
              {"verb": "Read", "id": "r", "dataset": "loans", "as": "loan"},
              {"verb": "Write", "id": "w", "dataset": "booked", "mode": "replace", "fills": [
                {"id": "1", "target": "no", "wire": "$loan/no"},
                {"id": "3", "target": "new", "constant": "yes"}]},
              {"verb": "Note", "id": "n", "text": "done"}]}
            """;

    private static List<String> lines(String before, String after) {
        return FlowDifference.between(FlowFile.parse(before), FlowFile.parse(after)).stream()
                .map(d -> d.title() + " " + d.kind().word()
                        + (d.what() == null ? "" : ": " + d.what() + " " + d.before() + " -> " + d.after()))
                .toList();
    }

    @Test
    public void stagesFillsAndSettingsAreCompared() {
        assertEquals(
                lines(BEFORE, AFTER),
                List.of(
                        "Write booked changed: mode append -> replace",
                        "Write booked changed: fill no wire $loan/number -> wire $loan/no",
                        "Write booked added: fill new null -> constant yes",
                        "Write booked removed: fill old wire $loan/old -> null",
                        "Note n added",
                        "Filter dear ones removed"));
    }

    @Test
    public void aStageThatStandsElsewhereIsMovedAndTheOthersAreNot() {
        String other =
                BEFORE.replaceAll("(?s)(\\{\"verb\": \"Read.*?\\},\\s*)(\\{\"verb\": \"Filter.*?\\}),", "$2, $1");
        assertEquals(lines(BEFORE, other), List.of("Read loan moved"));
        assertEquals(
                lines(BEFORE, BEFORE.replace("dear ones", "cheap ones")),
                List.of("Filter cheap ones changed: name dear ones -> cheap ones"),
                "what stands behind a stage that is called otherwise has not moved");
    }

    @Test
    public void theSameFlowHasNoDifferences() {
        assertEquals(lines(BEFORE, BEFORE), List.of());
    }
}
