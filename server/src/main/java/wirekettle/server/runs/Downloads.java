package wirekettle.server.runs;

import de.siegmar.fastcsv.writer.CsvWriter;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.OutputStream;
import java.io.OutputStreamWriter;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;
import wirekettle.server.ledger.LedgerMapper;

/** Files made from the ledger. */
@ApplicationScoped
public class Downloads {
    private static final int STEP = 500;

    @Inject
    LedgerMapper ledger;

    /** Writes the records that were not written: their fields as they came in, then outcome, class and message. */
    void rejects(long run, OutputStream out) throws IOException {
        Writer text = new OutputStreamWriter(out, StandardCharsets.UTF_8);
        CsvWriter writer = CsvWriter.builder().build(text);
        boolean header = false;
        for (String ended : new String[] {"rejected", "in-doubt", "held-back"}) {
            for (long offset = 0; ; offset += STEP) {
                List<LedgerMapper.Line> lines = ledger.page(run, ended, "%", "%", "%", STEP, offset);
                for (LedgerMapper.Line line : lines) {
                    Node input = input(line);
                    if (!header) {
                        List<String> names = new ArrayList<>();
                        input.children().forEach(c -> names.add(c.name().local()));
                        names.addAll(List.of("_record", "_outcome", "_class", "_message"));
                        writer.writeRecord(names);
                        header = true;
                    }
                    List<String> values = new ArrayList<>();
                    input.children().forEach(c -> values.add(c.text()));
                    values.addAll(
                            List.of(String.valueOf(line.ordinal()), line.ended(), line.failureClass(), line.message()));
                    writer.writeRecord(values);
                }
                if (lines.size() < STEP) {
                    break;
                }
            }
        }
        writer.flush();
        text.flush();
    }

    private static Node input(LedgerMapper.Line line) throws IOException {
        try {
            byte[] xml = line.input().getBytes(StandardCharsets.UTF_8);
            return NodeReader.read(new ByteArrayInputStream(xml), "record " + line.ordinal(), XmlLimits.MESSAGES);
        } catch (XmlProblem e) {
            throw new IOException(e.sentence(), e);
        }
    }
}
