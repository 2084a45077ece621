package wirekettle.server.secrets;

import jakarta.enterprise.inject.Instance;
import jakarta.inject.Inject;
import jakarta.transaction.Transactional;
import jakarta.ws.rs.Consumes;
import jakarta.ws.rs.DELETE;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.PUT;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.core.MediaType;
import java.io.IOException;
import java.nio.file.Files;
import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import org.jboss.resteasy.reactive.RestForm;
import org.jboss.resteasy.reactive.multipart.FileUpload;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.security.KeyMaterial;
import wirekettle.core.soap.security.KeyUnreadable;
import wirekettle.core.soap.security.Masking;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Problem;

/** Secrets: their values come in and never go out. */
@Path("/api")
public class SecretResource {
    private static final int LARGEST = 1 << 20;

    @Inject
    SecretMapper mapper;

    @Inject
    StoredSecrets secrets;

    @Inject
    Instance<SecretUser> senders;

    @Inject
    CurrentPerson current;

    /**
     * What is told of a secret.
     *
     * @param kind text, or key for a private key with its certificate
     * @param owner whom a key's certificate names
     * @param validUntil when a key's certificate ends
     * @param usedBy the endpoints that use it, with the environment, and the flows that send it
     * @param destinations where it may be sent, as host:port
     * @param nextFrom from when another value counts, or null
     * @param nextBy who wrote that value
     */
    @Schema(
            name = "Secret",
            requiredProperties = {"name", "kind", "changedBy", "changedAt", "usedBy", "destinations"})
    public record SecretView(
            String name,
            String kind,
            String owner,
            Instant validUntil,
            String changedBy,
            Instant changedAt,
            List<String> usedBy,
            List<String> destinations,
            Instant nextFrom,
            String nextBy) {}

    /**
     * A secret's new value.
     *
     * @param destinations where it may be sent, as host:port or address; what is left out stays as it is
     * @param from from when it counts, where there is a value already; null for at once
     */
    @Schema(
            name = "SecretValue",
            requiredProperties = {"value"})
    public record Value(String value, List<String> destinations, Instant from) {
        @Override
        public String toString() {
            return "Value[]";
        }
    }

    /** Where a secret may be sent. */
    @Schema(
            name = "SecretDestinations",
            requiredProperties = {"destinations"})
    public record Destinations(List<String> destinations) {}

    private SecretView told(SecretMapper.Row row) {
        List<String> users = new ArrayList<>();
        senders.forEach(sender -> users.addAll(sender.uses(row.name())));
        mapper.flows(row.name()).forEach(flow -> users.add("flow " + flow));
        SecretMapper.Next next = mapper.next(row.name());
        return new SecretView(
                row.name(),
                row.kind(),
                row.owner(),
                row.validUntil(),
                row.changedBy(),
                row.changedAt(),
                users,
                mapper.destinations(row.name()),
                next == null ? null : next.from(),
                next == null ? null : next.by());
    }

    /** Returns whether a value is for later; refused where there is nothing until then. */
    private boolean later(String name, Instant from) {
        if (from == null || !from.isAfter(Instant.now())) {
            return false;
        }
        if (mapper.byName(name) == null) {
            throw new Problem(
                    409,
                    "no-value-yet",
                    "“" + name + "” has no value until then: write the one that counts now first.");
        }
        return true;
    }

    private static List<String> checked(List<String> destinations) {
        List<String> checked = new ArrayList<>();
        for (String given : destinations) {
            String text = given == null ? "" : given.strip();
            String destination = EndpointReach.destination(text.contains("://") ? text : "http://" + text);
            if (destination == null || !text.contains("://") && !text.matches(".*:\\d{1,5}")) {
                throw new Problem(
                        400,
                        "bad-destination",
                        "“" + text + "” is no host:port and no http address a secret could go to.");
            }
            checked.add(destination);
        }
        return checked;
    }

    /** Sets where a secret may be sent: it is given to nothing else, tests and simulators included. */
    @PUT
    @Needs(Right.MANAGE)
    @Path("secrets/{name}/destinations")
    @Transactional
    public SecretView destinations(@PathParam("name") String name, Destinations given) {
        if (mapper.byName(name) == null) {
            throw Problem.missing("secret");
        }
        secrets.allow(name, checked(given.destinations() == null ? List.of() : given.destinations()));
        return told(mapper.byName(name));
    }

    /** Returns all secrets, without their values. */
    @GET
    @Path("secrets")
    public List<SecretView> all() {
        return mapper.all().stream().map(this::told).toList();
    }

    private static String name(String name) {
        if (!name.matches("[\\p{L}\\p{N}][\\p{L}\\p{N} ._-]{0,79}")) {
            throw new Problem(
                    400,
                    "bad-name",
                    "A secret's name has up to 80 letters, digits, spaces, dots, dashes and underscores.");
        }
        return name;
    }

    /** Writes a password or token, over the one of that name. */
    @PUT
    @Needs(Right.MANAGE)
    @Path("secrets/{name}")
    public SecretView write(@PathParam("name") String name, Value given) {
        String value = given.value() == null ? "" : given.value();
        if (value.length() < Masking.SHORTEST || value.length() > 10_000) {
            throw new Problem(
                    400,
                    "bad-secret",
                    "A secret has " + Masking.SHORTEST
                            + " to 10,000 characters: a shorter one could not be hidden in what comes back of calls.");
        }
        List<String> destinations = given.destinations() == null ? null : checked(given.destinations());
        if (later(name(name), given.from())) {
            secrets.writeNext(name, value, given.from(), current.name());
        } else {
            secrets.write(name, value, current.name());
            mapper.forgetNext(name);
        }
        if (destinations != null) {
            secrets.allow(name, destinations);
        }
        return told(mapper.byName(name));
    }

    /** Writes a private key with its certificate from a PKCS#12 or PEM file. */
    @POST
    @Needs(Right.MANAGE)
    @Path("secrets/{name}/key")
    @Consumes(MediaType.MULTIPART_FORM_DATA)
    public SecretView key(
            @PathParam("name") String name,
            @RestForm("file") FileUpload file,
            @RestForm("password") String password,
            @RestForm("from") String from)
            throws IOException {
        name(name);
        if (file == null || file.size() > LARGEST) {
            throw new Problem(400, "bad-key", "Give one PKCS#12 or PEM file of at most 1 MB.");
        }
        try {
            KeyMaterial key = KeyMaterial.read(Files.readAllBytes(file.uploadedFile()), password);
            Instant at = from == null || from.isBlank() ? null : Instant.parse(from);
            if (later(name, at)) {
                secrets.writeNext(name, key, at, current.name());
            } else {
                secrets.write(name, key, current.name());
                mapper.forgetNext(name);
            }
        } catch (DateTimeParseException e) {
            throw new Problem(400, "bad-time", "“" + from + "” is no moment, as in 2026-12-31T23:00:00Z.");
        } catch (KeyUnreadable e) {
            throw new Problem(422, "bad-key", file.fileName() + ": " + e.getMessage() + ".");
        }
        return told(mapper.byName(name));
    }

    /** Forgets the value a secret was to have later. */
    @DELETE
    @Needs(Right.MANAGE)
    @Path("secrets/{name}/next")
    public SecretView forgetNext(@PathParam("name") String name) {
        if (mapper.byName(name) == null) {
            throw Problem.missing("secret");
        }
        mapper.forgetNext(name);
        return told(mapper.byName(name));
    }

    /** Removes a secret that no endpoint and no flow uses. */
    @DELETE
    @Needs(Right.MANAGE)
    @Path("secrets/{name}")
    public void remove(@PathParam("name") String name) {
        SecretMapper.Row row = mapper.byName(name);
        if (row == null) {
            throw Problem.missing("secret");
        }
        List<String> users = told(row).usedBy();
        if (!users.isEmpty()) {
            throw new Problem(
                    409,
                    "secret-used",
                    "“" + name + "” is used by " + String.join(", ", users) + ": change these first.");
        }
        secrets.remove(name);
    }
}
