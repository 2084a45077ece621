package wirekettle.demo;

import com.icegreen.greenmail.util.GreenMail;
import com.icegreen.greenmail.util.ServerSetup;
import com.sun.net.httpserver.HttpServer;
import jakarta.mail.MessagingException;
import jakarta.mail.internet.MimeMessage;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;

/** A mail server on loopback that keeps what it is given and shows it on a page; nothing leaves it. */
public final class MailSink implements AutoCloseable {
    private static final String LOOPBACK = "127.0.0.1";

    private final GreenMail mail;
    private HttpServer page;

    /**
     * A mail.
     *
     * @param to to whom
     * @param subject its subject
     * @param text its text
     */
    public record Mail(String to, String subject, String text) {}

    /** Starts one at a port, 0 for any that is free. */
    public MailSink(int port) {
        mail = new GreenMail(new ServerSetup(port, LOOPBACK, ServerSetup.PROTOCOL_SMTP));
        mail.start();
    }

    /** Returns the port mails are taken at. */
    public int port() {
        return mail.getSmtp().getPort();
    }

    /** Shows the mails at a port, the newest first. */
    public void show(int port) throws IOException {
        page = HttpServer.create(new InetSocketAddress(InetAddress.getByName(LOOPBACK), port), 0);
        page.createContext("/mail", exchange -> {
            byte[] text = shown().getBytes(StandardCharsets.UTF_8);
            exchange.getResponseHeaders().set("Content-Type", "text/plain; charset=utf-8");
            exchange.sendResponseHeaders(200, text.length);
            exchange.getResponseBody().write(text);
            exchange.close();
        });
        page.start();
    }

    private String shown() {
        List<Mail> all = mails();
        StringBuilder text = new StringBuilder(all.size() + " mails, the newest first\n");
        for (int i = all.size() - 1; i >= 0; i--) {
            Mail each = all.get(i);
            text.append("\n------------------------------------------------------------\nTo: ")
                    .append(each.to())
                    .append("\nSubject: ")
                    .append(each.subject())
                    .append("\n\n")
                    .append(each.text());
        }
        return text.toString();
    }

    /** Returns what has come, the oldest first. */
    public List<Mail> mails() {
        List<Mail> all = new ArrayList<>();
        try {
            for (MimeMessage each : mail.getReceivedMessages()) {
                all.add(new Mail(
                        each.getAllRecipients()[0].toString(),
                        each.getSubject(),
                        String.valueOf(each.getContent()).replace("\r\n", "\n")));
            }
        } catch (MessagingException | IOException e) {
            throw new IllegalStateException("a mail cannot be read: " + e.getMessage(), e);
        }
        return all;
    }

    @Override
    public void close() {
        if (page != null) {
            page.stop(0);
        }
        mail.stop();
    }
}
