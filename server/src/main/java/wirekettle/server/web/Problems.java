package wirekettle.server.web;

import com.fasterxml.jackson.core.JsonLocation;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonMappingException;
import com.fasterxml.jackson.databind.exc.MismatchedInputException;
import jakarta.ws.rs.WebApplicationException;
import jakarta.ws.rs.core.Response;
import java.io.IOException;
import java.sql.SQLException;
import java.util.Map;
import java.util.stream.Collectors;
import org.jboss.logging.Logger;
import org.jboss.resteasy.reactive.server.ServerExceptionMapper;
import wirekettle.connect.HostRefused;
import wirekettle.core.contract.ContractRefused;

/** Turns every exception into problem details; none leaks a stack trace. */
public final class Problems {
    private static final Logger LOG = Logger.getLogger(Problems.class);

    /** Returns a problem. */
    @ServerExceptionMapper
    public Response problem(Problem problem) {
        return answer(problem.status(), problem.document());
    }

    /** Returns a refused contract with its findings. */
    @ServerExceptionMapper
    public Response refused(ContractRefused refused) {
        return problem(new Problem(422, "contract-refused", refused.getMessage()).with("findings", refused.findings()));
    }

    /** Returns a refused host, so that it can be allowed on the spot. */
    @ServerExceptionMapper
    public Response host(HostRefused refused) {
        return problem(new Problem(422, "host-not-allowed", refused.getMessage()).with("host", refused.host()));
    }

    /** Says that a body is JSON of another shape; the framework would answer with an empty body. */
    @ServerExceptionMapper
    public Response shape(MismatchedInputException e) {
        return json(e);
    }

    /** Tells that a body is no JSON, or not the JSON wanted. */
    @ServerExceptionMapper
    public Response json(JsonProcessingException e) {
        String pointer = e instanceof JsonMappingException mapping
                ? mapping.getPath().stream()
                        .map(step -> "/" + (step.getFieldName() == null ? step.getIndex() : step.getFieldName()))
                        .collect(Collectors.joining())
                : "";
        JsonLocation at = e.getLocation();
        String place = (pointer.isEmpty() ? "" : " at " + pointer)
                + (at == null ? "" : ", line " + at.getLineNr() + " column " + at.getColumnNr());
        String why = e instanceof MismatchedInputException
                ? "the value is of another kind than the one expected here"
                : String.valueOf(e.getOriginalMessage()).replaceFirst(" \\(start marker.*| \\[Source.*", "");
        return problem(new Problem(
                        400,
                        "bad-json",
                        "The request cannot be read" + place + ": "
                                + (why.length() > 300 ? why.substring(0, 300) + "…" : why))
                .with("pointer", pointer));
    }

    /** Tells that something outside failed. */
    @ServerExceptionMapper
    public Response outside(IOException e) {
        return problem(new Problem(422, "not-possible", String.valueOf(e.getMessage())));
    }

    /** Tells that a value makes no sense. */
    @ServerExceptionMapper
    public Response argument(IllegalArgumentException e) {
        return problem(new Problem(400, "bad-request", String.valueOf(e.getMessage())));
    }

    /** Passes on what the framework decided, as problem details. */
    @ServerExceptionMapper
    public Response framework(WebApplicationException e) {
        if (e.getCause() instanceof JsonProcessingException json) {
            return json(json);
        }
        int status = e.getResponse().getStatus();
        return problem(new Problem(status, "http-" + status, String.valueOf(e.getMessage())));
    }

    /** Logs an unexpected exception and answers only that it happened. */
    @ServerExceptionMapper
    public Response unexpected(RuntimeException e) {
        // the framework has no class for it
        if (String.valueOf(e.getMessage()).startsWith("Param limit of")) {
            return problem(new Problem(
                    413, "too-many-files", "There are too many files in one upload: give them in a zip, or in parts."));
        }
        if (taken(e)) {
            return problem(new Problem(
                    409, "name-taken", "Somebody else added one of the same name at this moment: look at it first."));
        }
        if (databaseAway(e)) {
            LOG.warnf("the database is away: %s", e.getMessage());
            return problem(new Problem(
                    503, "no-database", "The database is not there at the moment: try again when it is back."));
        }
        LOG.error("unexpected", e);
        return problem(new Problem(
                500, "unexpected", "Something went wrong that should not have; it is in the server's log."));
    }

    /** Tells whether the database refused a row because there is one of the same name already. */
    private static boolean taken(Throwable e) {
        return state(e).equals("23505");
    }

    /** Tells whether there was no database to ask: no connection, shutting down, starting up. */
    public static boolean databaseAway(Throwable e) {
        String state = state(e);
        return state.startsWith("08") || state.startsWith("57P0") || state.equals("55000");
    }

    /** Returns what the database says went wrong, as its standard's code; empty when it says nothing. */
    private static String state(Throwable e) {
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            if (cause instanceof SQLException sql && sql.getSQLState() != null) {
                return sql.getSQLState();
            }
        }
        return "";
    }

    private static Response answer(int status, Map<String, Object> document) {
        return Response.status(status)
                .type("application/problem+json")
                .entity(document)
                .build();
    }
}
