package wirekettle.core.soap;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.ExampleMessage;
import wirekettle.core.schema.Picks;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;

/**
 * An example of a whole message: its headers, its body, and why it may not be valid.
 *
 * @param headers the header elements
 * @param body the elements of the body
 * @param problems reasons why no valid value could be made, empty when all went well
 */
public record ExampleEnvelope(List<Node> headers, List<Node> body, List<String> problems) {
    /** Returns an example of a message, minimal or complete, with what was picked in it. */
    public static ExampleEnvelope of(Contract contract, Message message, boolean complete, Picks picks) {
        List<String> problems = new ArrayList<>();
        return new ExampleEnvelope(
                examples(contract, message.headers(), new ExampleMessage.Wish(complete, picks, false), problems),
                examples(
                        contract,
                        message.body(),
                        new ExampleMessage.Wish(complete, picks, message.encoded()),
                        problems),
                List.copyOf(problems));
    }

    private static List<Node> examples(
            Contract contract, List<ElementDecl> elements, ExampleMessage.Wish wish, List<String> problems) {
        List<Node> nodes = new ArrayList<>();
        for (ElementDecl element : elements) {
            ExampleMessage.Result result = contract.example(element, wish);
            problems.addAll(result.problems());
            nodes.add(result.root());
        }
        return List.copyOf(nodes);
    }

    /** Returns its text, indented when asked; version null means plain XML. */
    public String text(SoapVersion version, boolean indented) {
        return Envelopes.write(version, headers, body, indented);
    }

    /** Returns what the contract's own schemas find wrong with it, by the JDK's validator; empty when it is valid. */
    public List<String> wrong(Contract contract) {
        List<String> wrong = new ArrayList<>();
        for (List<Node> part : List.of(headers, body)) {
            for (Node root : part) {
                wrong.addAll(
                        contract.check().problems(NodeWriter.write(root, false).getBytes(StandardCharsets.UTF_8)));
            }
        }
        return wrong;
    }
}
