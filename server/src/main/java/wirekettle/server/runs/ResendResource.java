package wirekettle.server.runs;

import jakarta.inject.Inject;
import jakarta.transaction.Transactional;
import jakarta.ws.rs.GET;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import jakarta.ws.rs.PathParam;
import jakarta.ws.rs.QueryParam;
import java.io.IOException;
import java.util.List;
import java.util.stream.Collectors;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.server.ledger.CorrectionMapper;
import wirekettle.server.ledger.LedgerMapper;
import wirekettle.server.ledger.PostgresPast;
import wirekettle.server.ledger.RunMapper;
import wirekettle.server.publish.Publication;
import wirekettle.server.publish.Publications;
import wirekettle.server.signin.CurrentPerson;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Problem;

/** What becomes of the records of a run that are not done: sent again, asked about, discarded, settled by hand. */
@Path("/api")
public class ResendResource {
    private static final int MOST_REASON = 2_000;
    private static final List<String> DONE_BEFORE =
            List.of(PostgresPast.KEPT, PostgresPast.ANEW, PostgresPast.TAKEN_BACK);

    @Inject
    RunMapper runs;

    @Inject
    LedgerMapper ledger;

    @Inject
    Resends resends;

    @Inject
    CurrentPerson current;

    @Inject
    Publications publications;

    @Inject
    CorrectionMapper corrections;

    /**
     * Which records to send again, and how.
     *
     * @param cause those that failed for one cause, null for all
     * @param ordinals only these, with what is held back behind them; null for all
     * @param doubtful whether those in doubt are meant: it is asked what became of them, and they go on from there
     * @param doneBefore what becomes of what they did before: kept, anew (done once more) or taken-back (and done anew);
     *     null for kept
     * @param inForce whether they go through the revision in force, else through the run's own
     */
    @Schema(name = "RunResend")
    public record Resend(String cause, List<Long> ordinals, Boolean doubtful, String doneBefore, Boolean inForce) {}

    /**
     * What is to be known before records are sent again.
     *
     * @param did how many of them have a change that is done
     * @param takesBack whether the run's revision says of everything it does what takes it back
     * @param asks about how many records in doubt a rule of the flow can ask
     * @param inForce the revision in force there, null for none
     * @param inForceTakesBack whether that one says so
     */
    @Schema(
            name = "RunResendable",
            requiredProperties = {"did", "takesBack", "asks", "inForceTakesBack"})
    public record Resendable(long did, boolean takesBack, long asks, Integer inForce, boolean inForceTakesBack) {}

    private RunMapper.Row row(long id) {
        RunMapper.Row row = runs.byId(id);
        if (row == null) {
            throw Problem.missing("run");
        }
        return row;
    }

    private static String any(String wanted) {
        return wanted == null || wanted.isBlank() ? "%" : wanted;
    }

    /** Says what is to be known before records are sent again. */
    @GET
    @Path("runs/{id}/resendable")
    public Resendable resendable(@PathParam("id") long id, @QueryParam("cause") String cause) {
        RunMapper.Row row = row(id);
        Publication now = publications.inForce(row.flowId(), row.environment());
        return new Resendable(
                ledger.did(id, any(cause), ""),
                resends.reversible(row, row.flowRevision()),
                resends.askable(row, any(cause)),
                now == null ? null : now.revision(),
                now != null && resends.reversible(row, now.revision()));
    }

    private void mustHaveEnded(RunMapper.Row row) {
        current.mustRunIn(row.environment());
        if (List.of("running", "paused", "interrupted").contains(row.state())) {
            throw new Problem(
                    409,
                    "not-ended",
                    "Run " + row.id() + " is " + row.state() + ": what waits of it is seen to once it has ended.");
        }
    }

    /**
     * Sends records again that were rejected or held back; what they changed is not changed again unless asked to. Of
     * those in doubt it is asked what became of them.
     */
    @POST
    @Needs(Right.RUN)
    @Path("runs/{id}/resend")
    public RunMapper.Row resend(@PathParam("id") long id, Resend given) throws IOException {
        RunMapper.Row row = row(id);
        mustHaveEnded(row);
        Resend which = given == null ? new Resend(null, null, null, null, null) : given;
        String doneBefore = which.doneBefore() == null ? PostgresPast.KEPT : which.doneBefore();
        boolean doubtful = Boolean.TRUE.equals(which.doubtful());
        if (!DONE_BEFORE.contains(doneBefore)) {
            throw new Problem(400, "bad-word", "What was done before is kept, done anew, or taken-back.");
        }
        if (doubtful && !doneBefore.equals(PostgresPast.KEPT)) {
            throw new Problem(400, "bad-word", "Of records in doubt it is asked what is done; that is kept.");
        }
        boolean inForce = Boolean.TRUE.equals(which.inForce());
        Publication now = inForce ? publications.inForce(row.flowId(), row.environment()) : null;
        if (inForce && now == null) {
            throw new Problem(409, "not-in-force", "Nothing of this flow is in force in " + row.environment() + ".");
        }
        Resends.Resend wanted = new Resends.Resend(
                which.cause(),
                which.ordinals() == null ? List.of() : which.ordinals(),
                doubtful,
                doneBefore,
                now == null ? null : now.revision(),
                now == null ? null : now.contracts());
        return runs.byId(resends.send(row, wanted, current.name()));
    }

    /**
     * What is said of records that wait.
     *
     * @param what discarded; of records in doubt done or not-done
     * @param reason why
     * @param cause only those of a cause, null for all
     * @param ordinals only these, null for all
     */
    @Schema(
            name = "RunSettle",
            requiredProperties = {"what", "reason"})
    public record Settle(String what, String reason, String cause, List<Long> ordinals) {}

    /** Discards records that were rejected or held back, or says of records in doubt what became of them. */
    @POST
    @Needs(Right.RUN)
    @Path("runs/{id}/settlements")
    @Transactional
    public RunMapper.Row settle(@PathParam("id") long id, Settle given) {
        row(id);
        // a run that is just going on is known to be
        runs.lock(id);
        mustHaveEnded(row(id));
        String reason = given.reason() == null ? "" : given.reason().strip();
        if (reason.isEmpty() || reason.length() > MOST_REASON) {
            throw new Problem(400, "no-reason", "Say why, in at most " + MOST_REASON + " characters.");
        }
        boolean discards = "discarded".equals(given.what());
        if (!discards && !List.of("done", "not-done").contains(String.valueOf(given.what()))) {
            throw new Problem(400, "bad-word", "A record is discarded; one in doubt is done or not-done.");
        }
        String ordinals = given.ordinals() == null
                ? ""
                : given.ordinals().stream().map(String::valueOf).collect(Collectors.joining(","));
        int settled = corrections.settle(
                id,
                given.what(),
                reason,
                current.name(),
                discards ? "rejected,held-back" : "in-doubt",
                any(given.cause()),
                ordinals);
        if (settled == 0) {
            throw new Problem(409, "nothing-open", "None of these records waits any more.");
        }
        corrections.countSettled(id, discards ? settled : 0, discards ? 0 : settled);
        return row(id);
    }
}
