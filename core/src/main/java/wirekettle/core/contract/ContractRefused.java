package wirekettle.core.contract;

import java.util.List;
import wirekettle.core.xml.Finding;

/** Documents that cannot be used as a contract; the findings say what, where and why. */
public final class ContractRefused extends Exception {
    private final transient List<Finding> findings;

    /** Makes a refusal from what was found; the last finding is the reason. */
    public ContractRefused(List<Finding> findings) {
        super(sentence(findings.get(findings.size() - 1)));
        this.findings = List.copyOf(findings);
    }

    private static String sentence(Finding finding) {
        String place = finding.line() > 0 ? " line " + finding.line() + " column " + finding.column() : "";
        return finding.document() + place + ": " + finding.message();
    }

    /** Returns everything found, the reason last. */
    public List<Finding> findings() {
        return findings;
    }
}
