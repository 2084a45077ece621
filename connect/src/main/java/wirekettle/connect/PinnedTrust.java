package wirekettle.connect;

import java.net.Socket;
import java.security.GeneralSecurityException;
import java.security.KeyStore;
import java.security.cert.CertificateException;
import java.security.cert.X509Certificate;
import java.util.Set;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLEngine;
import javax.net.ssl.TrustManager;
import javax.net.ssl.TrustManagerFactory;
import javax.net.ssl.X509ExtendedTrustManager;

/**
 * Trusts what the machine trusts, and beyond that only servers whose certificate has a given fingerprint; remembers
 * the certificate it refused last, so that it can be shown.
 */
final class PinnedTrust extends X509ExtendedTrustManager {
    private final X509ExtendedTrustManager usual = usual();
    private final Set<String> trusted;
    private volatile X509Certificate refused;
    private volatile String reason;

    PinnedTrust(Set<String> trusted) {
        this.trusted = trusted;
    }

    private static X509ExtendedTrustManager usual() {
        try {
            TrustManagerFactory factory = TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
            factory.init((KeyStore) null);
            for (TrustManager manager : factory.getTrustManagers()) {
                if (manager instanceof X509ExtendedTrustManager extended) {
                    return extended;
                }
            }
            throw new IllegalStateException("this Java has no X.509 trust manager");
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    SSLContext context() {
        try {
            SSLContext context = SSLContext.getInstance("TLS");
            context.init(null, new TrustManager[] {this}, null);
            return context;
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Returns the last refusal as a problem of a host; null when there was none. */
    CertificateUnknown refused(String host) {
        X509Certificate certificate = refused;
        return certificate == null ? null : new CertificateUnknown(host, certificate, reason);
    }

    private interface Check {
        void run() throws CertificateException;
    }

    private void server(X509Certificate[] chain, Check check) throws CertificateException {
        if (trusted.contains(CertificateUnknown.fingerprint(chain[0]))) {
            return;
        }
        try {
            check.run();
        } catch (CertificateException e) {
            refused = chain[0];
            reason = String.valueOf(e.getMessage()).contains("unable to find valid certification path")
                    ? "no authority this machine knows has signed it"
                    : e.getMessage();
            throw e;
        }
    }

    @Override
    public void checkServerTrusted(X509Certificate[] chain, String type, SSLEngine engine) throws CertificateException {
        server(chain, () -> usual.checkServerTrusted(chain, type, engine));
    }

    @Override
    public void checkServerTrusted(X509Certificate[] chain, String type, Socket socket) throws CertificateException {
        server(chain, () -> usual.checkServerTrusted(chain, type, socket));
    }

    @Override
    public void checkServerTrusted(X509Certificate[] chain, String type) throws CertificateException {
        server(chain, () -> usual.checkServerTrusted(chain, type));
    }

    @Override
    public void checkClientTrusted(X509Certificate[] chain, String type, SSLEngine engine) throws CertificateException {
        usual.checkClientTrusted(chain, type, engine);
    }

    @Override
    public void checkClientTrusted(X509Certificate[] chain, String type, Socket socket) throws CertificateException {
        usual.checkClientTrusted(chain, type, socket);
    }

    @Override
    public void checkClientTrusted(X509Certificate[] chain, String type) throws CertificateException {
        usual.checkClientTrusted(chain, type);
    }

    @Override
    public X509Certificate[] getAcceptedIssuers() {
        return usual.getAcceptedIssuers();
    }
}
