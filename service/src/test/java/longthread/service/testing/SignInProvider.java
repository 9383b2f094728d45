package longthread.service.testing;

import com.nimbusds.jose.JOSEException;
import com.nimbusds.jose.JOSEObjectType;
import com.nimbusds.jose.JWSAlgorithm;
import com.nimbusds.jose.JWSHeader;
import com.nimbusds.jose.crypto.RSASSASigner;
import com.nimbusds.jose.jwk.JWKSet;
import com.nimbusds.jose.jwk.RSAKey;
import com.nimbusds.jose.jwk.gen.RSAKeyGenerator;
import com.nimbusds.jwt.JWTClaimsSet;
import com.nimbusds.jwt.PlainJWT;
import com.nimbusds.jwt.SignedJWT;
import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.time.Instant;
import java.util.Base64;
import java.util.Date;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;

/** A small OpenID Connect provider: whoever comes is signed in as whom the test names. */
public final class SignInProvider implements AutoCloseable {
  public static final String CLIENT = "longthread";
  public static final String SECRET = "not so secret";

  /** What an ID token may be like, other than it should. */
  public enum Fault {
    NONE,
    OTHER_KEY,
    OTHER_AUDIENCE,
    OTHER_ISSUER,
    OTHER_NONCE,
    OVER,
    UNSIGNED
  }

  private final HttpServer server;
  private final RSAKey key;
  private final RSAKey otherKey;
  private final Map<String, Map<String, String>> started = new HashMap<>();
  private String subject = "s-1";
  private String name = "ida";
  private List<String> groups = List.of();
  private Fault fault = Fault.NONE;
  private String session = "";

  public SignInProvider() {
    try {
      key = new RSAKeyGenerator(2048).keyID("first").generate();
      otherKey = new RSAKeyGenerator(2048).keyID("first").generate();
      server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
    } catch (JOSEException | IOException e) {
      throw new IllegalStateException(e);
    }
    server.createContext("/", this::answer);
    server.start();
  }

  public String issuer() {
    return "http://127.0.0.1:" + server.getAddress().getPort();
  }

  /** Says who signs in next. */
  public void signsIn(String newSubject, String newName, String... newGroups) {
    subject = newSubject;
    name = newName;
    groups = List.of(newGroups);
  }

  public void has(Fault newFault) {
    fault = newFault;
  }

  /** By what the provider names the newest session. */
  public String session() {
    return session;
  }

  private void answer(HttpExchange exchange) throws IOException {
    String path = exchange.getRequestURI().getPath();
    Map<String, String> query = form(exchange.getRequestURI().getRawQuery());
    try {
      switch (path) {
        case "/.well-known/openid-configuration" -> json(exchange, 200, configuration());
        case "/jwks" -> json(exchange, 200, new JWKSet(key.toPublicJWK()).toString());
        case "/authorize" -> {
          String code = UUID.randomUUID().toString();
          started.put(code, query);
          redirect(
              exchange,
              query.get("redirect_uri") + "?code=" + code + "&state=" + query.get("state"));
        }
        case "/token" -> token(exchange);
        default -> json(exchange, 404, "{}");
      }
    } catch (JOSEException | java.security.NoSuchAlgorithmException e) {
      throw new IOException(e);
    }
  }

  private String configuration() {
    String at = issuer();
    return ("{'issuer':'"
            + at
            + "','authorization_endpoint':'"
            + at
            + "/authorize','token_endpoint':'"
            + at
            + "/token','jwks_uri':'"
            + at
            + "/jwks','end_session_endpoint':'"
            + at
            + "/end','response_types_supported':['code'],'subject_types_supported':['public'],"
            + "'id_token_signing_alg_values_supported':['RS256'],"
            + "'code_challenge_methods_supported':['S256']}")
        .replace('\'', '"');
  }

  private void token(HttpExchange exchange)
      throws IOException, JOSEException, java.security.NoSuchAlgorithmException {
    String body = new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
    Map<String, String> form = form(body);
    Map<String, String> asked = started.remove(form.getOrDefault("code", ""));
    String basic =
        "Basic "
            + Base64.getEncoder()
                .encodeToString(
                    (CLIENT + ":" + SECRET.replace(" ", "+")).getBytes(StandardCharsets.UTF_8));
    byte[] challenge =
        MessageDigest.getInstance("SHA-256")
            .digest(form.getOrDefault("code_verifier", "").getBytes(StandardCharsets.US_ASCII));
    String encoded = Base64.getUrlEncoder().withoutPadding().encodeToString(challenge);
    boolean isRight =
        asked != null
            && basic.equals(exchange.getRequestHeaders().getFirst("Authorization"))
            && encoded.equals(asked.get("code_challenge"))
            && asked.get("redirect_uri").equals(form.get("redirect_uri"));
    if (!isRight) {
      json(exchange, 400, "{\"error\":\"invalid_grant\"}");
      return;
    }
    json(
        exchange,
        200,
        "{\"access_token\":\"a\",\"token_type\":\"Bearer\",\"expires_in\":60,\"id_token\":\""
            + idToken(asked.get("nonce"))
            + "\"}");
  }

  private String idToken(String nonce) throws JOSEException {
    session = UUID.randomUUID().toString();
    Instant now = Instant.now();
    JWTClaimsSet claims =
        new JWTClaimsSet.Builder()
            .issuer(fault == Fault.OTHER_ISSUER ? "http://elsewhere" : issuer())
            .subject(subject)
            .audience(fault == Fault.OTHER_AUDIENCE ? "another" : CLIENT)
            .issueTime(Date.from(fault == Fault.OVER ? now.minusSeconds(7_200) : now))
            .expirationTime(Date.from(now.plusSeconds(fault == Fault.OVER ? -3_600 : 300)))
            .claim("nonce", fault == Fault.OTHER_NONCE ? "another" : nonce)
            .claim("sid", session)
            .claim("preferred_username", name)
            .claim("name", "Person " + name)
            .claim("groups", groups)
            .build();
    return fault == Fault.UNSIGNED
        ? new PlainJWT(claims).serialize()
        : signed(claims, null, fault == Fault.OTHER_KEY ? otherKey : key);
  }

  /** A word that a session, or all of a person, are over. */
  public String logoutToken(String ofSubject, String ofSession, boolean rightKey) {
    var claims =
        new JWTClaimsSet.Builder()
            .issuer(issuer())
            .audience(CLIENT)
            .issueTime(new Date())
            .expirationTime(Date.from(Instant.now().plusSeconds(100)))
            .jwtID(UUID.randomUUID().toString())
            .claim(
                "events", Map.of("http://schemas.openid.net/event/backchannel-logout", Map.of()));
    if (!ofSubject.isEmpty()) {
      claims.subject(ofSubject);
    }
    if (!ofSession.isEmpty()) {
      claims.claim("sid", ofSession);
    }
    try {
      return signed(claims.build(), new JOSEObjectType("logout+jwt"), rightKey ? key : otherKey);
    } catch (JOSEException e) {
      throw new IllegalStateException(e);
    }
  }

  private static String signed(JWTClaimsSet claims, JOSEObjectType type, RSAKey with)
      throws JOSEException {
    var token =
        new SignedJWT(
            new JWSHeader.Builder(JWSAlgorithm.RS256).keyID(with.getKeyID()).type(type).build(),
            claims);
    token.sign(new RSASSASigner(with));
    return token.serialize();
  }

  private static Map<String, String> form(String text) {
    var form = new HashMap<String, String>();
    for (String pair : (text == null ? "" : text).split("&")) {
      int equals = pair.indexOf('=');
      if (equals > 0) {
        form.put(
            pair.substring(0, equals),
            URLDecoder.decode(pair.substring(equals + 1), StandardCharsets.UTF_8));
      }
    }
    return form;
  }

  private static void json(HttpExchange exchange, int status, String body) throws IOException {
    byte[] bytes = body.getBytes(StandardCharsets.UTF_8);
    exchange.getResponseHeaders().set("Content-Type", "application/json");
    exchange.sendResponseHeaders(status, bytes.length);
    exchange.getResponseBody().write(bytes);
    exchange.close();
  }

  private static void redirect(HttpExchange exchange, String to) throws IOException {
    exchange.getResponseHeaders().set("Location", to);
    exchange.sendResponseHeaders(302, -1);
    exchange.close();
  }

  @Override
  public void close() {
    server.stop(0);
  }
}
