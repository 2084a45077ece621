package wirekettle.demo;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.net.CookieManager;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.util.Map;

/** Talks to a started product through its public API, as one signed-in person. */
public final class ProductClient {
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final String BOUNDARY = "wirekettle-boundary";

    private final String address;
    private final HttpClient client = HttpClient.newBuilder()
            .version(HttpClient.Version.HTTP_1_1)
            .cookieHandler(new CookieManager())
            .build();

    /** Makes a client of the product at an address without a trailing slash. */
    public ProductClient(String address) {
        this.address = address;
    }

    /**
     * An answer.
     *
     * @param status the HTTP status
     * @param body the content
     */
    public record Answer(int status, byte[] body) {
        /** Returns the content as JSON. */
        public JsonNode json() throws IOException {
            return JSON.readTree(body);
        }

        /** Returns the content as text. */
        public String text() {
            return new String(body, StandardCharsets.UTF_8);
        }
    }

    /** Signs in. */
    public void signIn(String name, String password) throws IOException {
        expect(send("POST", "/api/sign-in", Map.of("name", name, "password", password), Map.of()));
    }

    /** Returns the JSON of a GET. */
    public JsonNode get(String path) throws IOException {
        return expect(send("GET", path, null, Map.of())).json();
    }

    /** Returns the JSON answered to a POST. */
    public JsonNode post(String path, Object body) throws IOException {
        return expect(send("POST", path, body, Map.of())).json();
    }

    /** Returns the JSON answered to a PUT. */
    public JsonNode put(String path, Object body) throws IOException {
        return expect(send("PUT", path, body, Map.of())).json();
    }

    /** Uploads one or several files in a form field and returns the JSON answered. */
    public JsonNode upload(String path, String field, Map<String, byte[]> files) throws IOException {
        return expect(uploading(path, field, files, Map.of())).json();
    }

    /** Uploads files beside the values of other form fields and returns the JSON answered. */
    public JsonNode upload(String path, String field, Map<String, byte[]> files, Map<String, String> values)
            throws IOException {
        return expect(uploading(path, field, files, values)).json();
    }

    /** Uploads files and returns whatever was answered. */
    public Answer uploading(String path, String field, Map<String, byte[]> files) throws IOException {
        return uploading(path, field, files, Map.of());
    }

    private Answer uploading(String path, String field, Map<String, byte[]> files, Map<String, String> values)
            throws IOException {
        ByteArrayOutputStream body = new ByteArrayOutputStream();
        values.forEach((name, value) -> body.writeBytes(
                ("--" + BOUNDARY + "\r\nContent-Disposition: form-data; name=\"" + name + "\"\r\n\r\n" + value + "\r\n")
                        .getBytes(StandardCharsets.UTF_8)));
        for (Map.Entry<String, byte[]> file : files.entrySet()) {
            body.writeBytes(("--" + BOUNDARY + "\r\nContent-Disposition: form-data; name=\"" + field + "\"; filename=\""
                            + file.getKey() + "\"\r\nContent-Type: application/octet-stream\r\n\r\n")
                    .getBytes(StandardCharsets.UTF_8));
            body.writeBytes(file.getValue());
            body.writeBytes("\r\n".getBytes(StandardCharsets.UTF_8));
        }
        body.writeBytes(("--" + BOUNDARY + "--\r\n").getBytes(StandardCharsets.UTF_8));
        HttpRequest request = HttpRequest.newBuilder(URI.create(address + path))
                .header("Content-Type", "multipart/form-data; boundary=" + BOUNDARY)
                .header("X-Wire-Kettle", "1")
                .POST(HttpRequest.BodyPublishers.ofByteArray(body.toByteArray()))
                .build();
        return exchange(request);
    }

    /** Sends a request with an optional JSON body and returns whatever was answered. */
    public Answer send(String method, String path, Object body, Map<String, String> headers) throws IOException {
        HttpRequest.Builder request = HttpRequest.newBuilder(URI.create(address + path))
                .header("X-Wire-Kettle", "1")
                .header("Content-Type", "application/json")
                .method(
                        method,
                        body == null
                                ? HttpRequest.BodyPublishers.noBody()
                                : HttpRequest.BodyPublishers.ofByteArray(JSON.writeValueAsBytes(body)));
        headers.forEach(request::setHeader);
        return exchange(request.build());
    }

    private Answer exchange(HttpRequest request) throws IOException {
        try {
            HttpResponse<byte[]> response = client.send(request, HttpResponse.BodyHandlers.ofByteArray());
            String leaked = SecretSearch.in(new String(response.body(), StandardCharsets.UTF_8));
            if (leaked != null) {
                throw new IllegalStateException(
                        request.method() + " " + request.uri() + " answered a secret: " + leaked);
            }
            return new Answer(response.statusCode(), response.body());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IOException("interrupted", e);
        }
    }

    private static Answer expect(Answer answer) throws IOException {
        if (answer.status() >= 300) {
            throw new IOException("the product answered " + answer.status() + ": " + answer.text());
        }
        return answer;
    }
}
