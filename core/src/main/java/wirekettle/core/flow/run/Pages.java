package wirekettle.core.flow.run;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Scope;
import wirekettle.core.flow.compile.CompiledPaging;
import wirekettle.core.flow.file.Paging;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/** How far a call has asked for page after page, and what came so far. */
final class Pages {
    private final CompiledPaging paging;
    private final String call;
    private final Set<String> tokens = new HashSet<>();
    private int count;
    private long rows;
    private String token;
    private boolean over;
    private Node base;
    private boolean baseHasRows;
    private final List<Node> more = new ArrayList<>();

    Pages(CompiledPaging paging, String call) {
        this.paging = paging;
        this.call = call;
    }

    /** Goes on where paging stood. */
    void at(PagedSource.Standing state) {
        count = state.count();
        rows = state.rows();
        token = state.token();
        if (token != null) {
            tokens.add(token);
        }
        over = state.over();
    }

    PagedSource.Standing standing() {
        return new PagedSource.Standing(count, rows, token, over);
    }

    boolean over() {
        return over;
    }

    /** Returns what the next page is asked with. */
    Node page() {
        int first = paging.stage().first();
        boolean offset = paging.stage().by() == Paging.By.OFFSET;
        Node.Builder page = Node.build(Name.of(Paging.VARIABLE))
                .add("number", Long.toString(offset ? count + 1L : (long) first + count))
                .add("offset", Long.toString(offset ? first + rows : rows));
        return (token == null ? page : page.add("token", token)).done();
    }

    /** Refuses to ask for more pages than there may be. */
    void mayAsk() throws Failed {
        int most = paging.stage().limit();
        if (count >= most) {
            throw failed(
                    "too many pages", "there are more than " + most + " pages: allow more of them, or ask for less");
        }
    }

    /**
     * Takes a page.
     *
     * @param body the reply
     * @param scope with the reply and the page it was asked with
     * @return its rows
     */
    List<Node> takes(Node body, Scope scope) throws Failed {
        List<Node> its = paging.rowsOf(body);
        count++;
        rows += its.size();
        over = last(its.size(), scope);
        return its;
    }

    /** Keeps the rows of a page for the whole. */
    void keeps(Node body, List<Node> its) {
        if (base == null || !baseHasRows && !its.isEmpty()) {
            base = body;
            baseHasRows = !its.isEmpty();
        } else {
            more.addAll(its);
        }
    }

    /** Returns the reply with the rows of all pages. */
    Node whole() {
        return more.isEmpty() ? base : joined(base, 0);
    }

    private boolean last(int its, Scope scope) throws Failed {
        try {
            if (paging.stage().by() == Paging.By.ONCE) {
                return true;
            }
            if (paging.until() != null && paging.until().test(scope)) {
                return true;
            }
            Integer size = paging.stage().size();
            boolean tooFew = size != null && its < size;
            if (paging.stage().by() != Paging.By.TOKEN) {
                return its == 0 || tooFew;
            }
            token = paging.next() == null ? "" : paging.next().text(scope).strip();
        } catch (ExpressionProblem e) {
            throw failed("the pages cannot be told", "whether there is another page cannot be told: " + e.getMessage());
        }
        if (token.isEmpty()) {
            return true;
        }
        if (!tokens.add(token)) {
            throw failed(
                    "a page token came back",
                    "the service gave the page token “" + token + "” again: asking on would go round in circles");
        }
        return false;
    }

    private Failed failed(String cause, String message) {
        return new Failed(Failure.of(FailureClass.REPLY, cause, message, call), false);
    }

    /** Puts the rows of later pages behind the last row of a node. */
    private Node joined(Node node, int depth) {
        List<String> steps = paging.rows().steps();
        List<Node> children = new ArrayList<>(node.children());
        int at = -1;
        for (int i = 0; i < children.size(); i++) {
            at = children.get(i).name().local().equals(steps.get(depth)) ? i : at;
        }
        if (at < 0) {
            return node;
        }
        if (depth == steps.size() - 1) {
            children.addAll(at + 1, more);
        } else {
            children.set(at, joined(children.get(at), depth + 1));
        }
        return node.with(children);
    }
}
