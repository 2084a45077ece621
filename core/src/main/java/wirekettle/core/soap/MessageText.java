package wirekettle.core.soap;

import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.HttpBinding;
import wirekettle.core.contract.Message;
import wirekettle.core.soap.attachments.FileMark;
import wirekettle.core.value.JsonReader;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.value.NodeWriter;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/** The text of a message in whatever form it travels: XML, JSON, or an HTTP request. */
public final class MessageText {
    // a private use area (Unicode, 23.5)
    private static final int FIRST_MARK = 0xE000;
    private static final int MOST_MARKS = 6_000;

    private MessageText() {}

    private static boolean json(String text) {
        return text.startsWith("{") || text.startsWith("[");
    }

    /**
     * Returns the text of a message of an operation as it travels, indented: the HTTP request of one described for
     * HTTP, JSON where its reply is that, else XML.
     *
     * @param body the message as a tree
     */
    public static String of(Contract contract, Offered offered, Message message, Node body) {
        HttpBinding http = offered.operation().http();
        if (http == null || http.described() == null) {
            return NodeWriter.write(body, true);
        }
        if (message == offered.operation().input()) {
            return HttpText.of(contract, offered, body, true).text();
        }
        boolean json = message != offered.operation().output()
                || HttpBinding.Described.json(http.described().replyType());
        return json
                ? new String(
                        JsonWriter.write(body, contract.sheet(message.body().get(0)), true), StandardCharsets.UTF_8)
                : NodeWriter.write(body, true);
    }

    /** Returns a text indented for people; one that cannot be read stays as it is. */
    public static String tidy(byte[] text) {
        String plain = new String(text, StandardCharsets.UTF_8);
        try {
            String start = plain.stripLeading();
            if (json(start)) {
                return new String(JsonWriter.indented(text), StandardCharsets.UTF_8);
            }
            if (!start.startsWith("<")) {
                return plain;
            }
            // marks of files would not outlive the tree: meanwhile each is a character no message has
            List<String> marks = new ArrayList<>();
            byte[] held = WireText.withoutDeclaration(text);
            if (FileMark.in(text)) {
                StringBuilder out = new StringBuilder();
                for (FileMark.Piece piece : FileMark.pieces(new String(held, StandardCharsets.UTF_8))) {
                    out.append(piece.text());
                    if (piece.mark() != null && marks.size() < MOST_MARKS) {
                        out.append((char) (FIRST_MARK + marks.size()));
                        marks.add(new String(piece.mark().text(), StandardCharsets.UTF_8));
                    }
                }
                held = out.toString().getBytes(StandardCharsets.UTF_8);
            }
            String written = NodeWriter.write(
                    NodeReader.read(new ByteArrayInputStream(held), "message", XmlLimits.MESSAGES), true);
            for (int i = 0; i < marks.size(); i++) {
                written = written.replace(Character.toString(FIRST_MARK + i), marks.get(i));
            }
            return written;
        } catch (XmlProblem e) {
            return plain;
        }
    }

    /**
     * Returns a text as a tree, so that two can be compared.
     *
     * @throws XmlProblem when it is neither XML nor JSON nor an HTTP request
     */
    public static Node node(String text) throws XmlProblem {
        String start = text.stripLeading();
        byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
        if (json(start)) {
            return JsonReader.read(bytes, Name.of("json"), "message", XmlLimits.MESSAGES);
        }
        if (start.startsWith("<")) {
            return NodeReader.read(
                    new ByteArrayInputStream(WireText.withoutDeclaration(bytes)), "message", XmlLimits.MESSAGES);
        }
        HttpText request = HttpText.parse(text);
        Node.Builder made = Node.build(Name.of("request"));
        made.add("method", request.method());
        int question = request.target().indexOf('?');
        made.add("path", question < 0 ? request.target() : request.target().substring(0, question));
        for (String pair : question < 0
                ? new String[0]
                : request.target().substring(question + 1).split("&")) {
            made.add("query", pair);
        }
        request.headers().forEach((name, value) -> made.add("header", name + ": " + value));
        String body = request.body().strip();
        if (json(body) || body.startsWith("<")) {
            made.add(node(body).named(Name.of("body")));
        } else if (!body.isEmpty()) {
            made.add("body", body);
        }
        return made.done();
    }
}
