package longthread.service.access;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import com.nimbusds.jose.JOSEException;
import com.nimbusds.jose.JWSAlgorithm;
import com.nimbusds.jose.proc.BadJOSEException;
import com.nimbusds.jwt.JWT;
import com.nimbusds.jwt.JWTParser;
import com.nimbusds.oauth2.sdk.AuthorizationCode;
import com.nimbusds.oauth2.sdk.AuthorizationCodeGrant;
import com.nimbusds.oauth2.sdk.GeneralException;
import com.nimbusds.oauth2.sdk.ResponseType;
import com.nimbusds.oauth2.sdk.Scope;
import com.nimbusds.oauth2.sdk.TokenRequest;
import com.nimbusds.oauth2.sdk.TokenResponse;
import com.nimbusds.oauth2.sdk.auth.ClientSecretBasic;
import com.nimbusds.oauth2.sdk.auth.Secret;
import com.nimbusds.oauth2.sdk.http.HTTPRequest;
import com.nimbusds.oauth2.sdk.id.ClientID;
import com.nimbusds.oauth2.sdk.id.Issuer;
import com.nimbusds.oauth2.sdk.id.State;
import com.nimbusds.oauth2.sdk.pkce.CodeChallengeMethod;
import com.nimbusds.oauth2.sdk.pkce.CodeVerifier;
import com.nimbusds.oauth2.sdk.token.AccessToken;
import com.nimbusds.openid.connect.sdk.AuthenticationRequest;
import com.nimbusds.openid.connect.sdk.LogoutRequest;
import com.nimbusds.openid.connect.sdk.Nonce;
import com.nimbusds.openid.connect.sdk.OIDCTokenResponse;
import com.nimbusds.openid.connect.sdk.OIDCTokenResponseParser;
import com.nimbusds.openid.connect.sdk.UserInfoRequest;
import com.nimbusds.openid.connect.sdk.UserInfoResponse;
import com.nimbusds.openid.connect.sdk.claims.ClaimsSet;
import com.nimbusds.openid.connect.sdk.claims.IDTokenClaimsSet;
import com.nimbusds.openid.connect.sdk.claims.LogoutTokenClaimsSet;
import com.nimbusds.openid.connect.sdk.op.OIDCProviderMetadata;
import com.nimbusds.openid.connect.sdk.validators.IDTokenValidator;
import com.nimbusds.openid.connect.sdk.validators.LogoutTokenValidator;
import java.io.IOException;
import java.net.URI;
import java.text.ParseException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.Base64;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/**
 * Speaks with the OpenID Connect provider: discovery, the authorization code with PKCE (RFC 7636),
 * and the end of sessions. Tokens are checked by the library, whose signing keys are fetched when
 * one is not known.
 */
@Component
class ProviderClient {
  /** How long after it was issued a token that ends sessions is taken. */
  private static final Duration LOGOUT_COUNTS = Duration.ofMinutes(5);

  private static final int TIMEOUT_MILLIS = 5_000;
  private static final Duration METADATA_KEPT = Duration.ofHours(1);

  /** The provider did not answer as the standard says; the message is for the service's log. */
  static final class ProviderException extends Exception {
    private static final long serialVersionUID = 1;

    ProviderException(String message, @Nullable Throwable cause) {
      super(message, cause);
    }
  }

  /**
   * Who signed in.
   *
   * @param session by which the provider names the session; empty if it does not
   * @param idToken to be handed back at the sign-out
   */
  record SignedIn(
      String subject,
      String name,
      String displayName,
      List<String> groups,
      String session,
      String idToken) {}

  /** Whose sessions the provider ended; {@code session} is empty where all of a person are. */
  record Ended(String subject, String session) {}

  private record Known(OIDCProviderMetadata metadata, Instant at) {}

  private final ProviderSettings settings;
  private final Clock clock;
  private volatile @Nullable Known known;

  /** The ids of logout tokens that counted. */
  private final Cache<String, Boolean> usedLogouts =
      Caffeine.newBuilder()
          .expireAfterWrite(LOGOUT_COUNTS.multipliedBy(2))
          .executor(Runnable::run)
          .build();

  ProviderClient(ProviderSettings settings, Clock clock) {
    this.settings = settings;
    this.clock = clock;
  }

  private OIDCProviderMetadata metadata() throws ProviderException {
    Known now = known;
    if (now == null || now.at().plus(METADATA_KEPT).isBefore(clock.instant())) {
      try {
        OIDCProviderMetadata read =
            OIDCProviderMetadata.resolve(
                new Issuer(settings.issuer()), TIMEOUT_MILLIS, TIMEOUT_MILLIS);
        now = new Known(read, clock.instant());
        known = now;
      } catch (GeneralException | IOException e) {
        if (now == null) {
          throw new ProviderException(settings.issuer() + " cannot be discovered: " + e, e);
        }
      }
    }
    return now.metadata();
  }

  /** Where a browser is sent to sign in. */
  URI signInAt(String state, String nonce, String verifier, URI back) throws ProviderException {
    return new AuthenticationRequest.Builder(
            ResponseType.CODE,
            new Scope(settings.scopes().toArray(String[]::new)),
            new ClientID(settings.client()),
            back)
        .endpointURI(metadata().getAuthorizationEndpointURI())
        .state(new State(state))
        .nonce(new Nonce(nonce))
        .codeChallenge(new CodeVerifier(verifier), CodeChallengeMethod.S256)
        .build()
        .toURI();
  }

  /** Exchanges a code for who signed in, and checks all that the standard asks to be checked. */
  SignedIn signedIn(String code, String nonce, String verifier, URI back) throws ProviderException {
    OIDCProviderMetadata metadata = metadata();
    try {
      var grant =
          new AuthorizationCodeGrant(new AuthorizationCode(code), back, new CodeVerifier(verifier));
      var client = new ClientID(settings.client());
      TokenRequest request =
          settings.secret().isEmpty()
              ? new TokenRequest(metadata.getTokenEndpointURI(), client, grant)
              : new TokenRequest(
                  metadata.getTokenEndpointURI(),
                  new ClientSecretBasic(client, new Secret(settings.secret())),
                  grant);
      TokenResponse answer = OIDCTokenResponseParser.parse(timed(request.toHTTPRequest()).send());
      if (!answer.indicatesSuccess()) {
        throw new ProviderException(
            "no token was given: " + answer.toErrorResponse().getErrorObject(), null);
      }
      var tokens = ((OIDCTokenResponse) answer.toSuccessResponse()).getOIDCTokens();
      JWT idToken = tokens.getIDToken();
      IDTokenClaimsSet claims =
          new IDTokenValidator(
                  metadata.getIssuer(), client, algorithm(idToken), metadata.getJWKSetURI().toURL())
              .validate(idToken, new Nonce(nonce));
      checkParty(claims);
      return person(claims, tokens.getAccessToken(), metadata, idToken.serialize());
    } catch (com.nimbusds.oauth2.sdk.ParseException
        | IOException
        | BadJOSEException
        | JOSEException
        | RuntimeException e) { // the library has no checked fault for each odd token
      throw new ProviderException("the sign-in is not confirmed: " + e, e);
    }
  }

  /**
   * A token for several receivers names the one that asked for it, and that must be this one.
   *
   * @see "OpenID Connect Core 1.0, section 3.1.3.7, steps 3 to 5"
   */
  private void checkParty(IDTokenClaimsSet claims) throws BadJOSEException {
    String party =
        claims.getAuthorizedParty() == null ? null : claims.getAuthorizedParty().getValue();
    boolean isForSeveral = claims.getAudience().size() > 1;
    if (party == null ? isForSeveral : !party.equals(settings.client())) {
      throw new BadJOSEException("the token was issued to another party: " + party);
    }
  }

  private static HTTPRequest timed(HTTPRequest request) {
    request.setConnectTimeout(TIMEOUT_MILLIS);
    request.setReadTimeout(TIMEOUT_MILLIS);
    return request;
  }

  /** A signature with a public key; a token without one, or with a shared secret, is refused. */
  private static JWSAlgorithm algorithm(JWT token) throws JOSEException {
    checkSpelling(token);
    if (token.getHeader().getAlgorithm() instanceof JWSAlgorithm signed
        && JWSAlgorithm.Family.SIGNATURE.contains(signed)) {
      return signed;
    }
    throw new JOSEException("the token is signed by " + token.getHeader().getAlgorithm());
  }

  /** Each part of a token has one spelling; a lenient decoder takes others for the same bytes. */
  private static void checkSpelling(JWT token) throws JOSEException {
    for (String part : token.serialize().split("\\.", -1)) {
      try {
        byte[] bytes = Base64.getUrlDecoder().decode(part);
        if (!Base64.getUrlEncoder().withoutPadding().encodeToString(bytes).equals(part)) {
          throw new JOSEException("a part of the token is not spelled as base64url");
        }
      } catch (IllegalArgumentException e) {
        throw new JOSEException("a part of the token is not base64url", e);
      }
    }
  }

  private SignedIn person(
      IDTokenClaimsSet claims, AccessToken access, OIDCProviderMetadata metadata, String idToken)
      throws IOException, com.nimbusds.oauth2.sdk.ParseException {
    String subject = claims.getSubject().getValue();
    ClaimsSet more = claims;
    boolean isEnough =
        claims.getClaim(settings.nameClaim()) != null
            && claims.getClaim(settings.groupsClaim()) != null;
    if (!isEnough && metadata.getUserInfoEndpointURI() != null) {
      UserInfoResponse answer =
          UserInfoResponse.parse(
              timed(new UserInfoRequest(metadata.getUserInfoEndpointURI(), access).toHTTPRequest())
                  .send());
      if (answer.indicatesSuccess()
          && answer.toSuccessResponse().getUserInfo().getSubject().equals(claims.getSubject())) {
        more = answer.toSuccessResponse().getUserInfo();
      }
    }
    String name = text(claims, more, settings.nameClaim()).orElse(subject);
    String session = claims.getSessionID() == null ? "" : claims.getSessionID().getValue();
    return new SignedIn(
        subject,
        name,
        text(claims, more, "name").orElse(name),
        groups(claims).isEmpty() ? groups(more) : groups(claims),
        session,
        idToken);
  }

  private static Optional<String> text(ClaimsSet first, ClaimsSet then, String claim) {
    String said = first.getStringClaim(claim);
    return Optional.ofNullable(said != null ? said : then.getStringClaim(claim))
        .filter(text -> !text.isBlank());
  }

  private List<String> groups(ClaimsSet claims) {
    List<String> groups = claims.getStringListClaim(settings.groupsClaim());
    String one = groups == null ? claims.getStringClaim(settings.groupsClaim()) : null;
    return groups != null ? groups : one != null ? List.of(one) : List.of();
  }

  /** Where a browser is sent to be signed out at the provider; empty if that offers no such way. */
  Optional<URI> signOutAt(String idToken, URI back) throws ProviderException {
    URI end = metadata().getEndSessionEndpointURI();
    if (end == null) {
      return Optional.empty();
    }
    try {
      return Optional.of(new LogoutRequest(end, JWTParser.parse(idToken), back, null).toURI());
    } catch (ParseException e) {
      throw new ProviderException("an ID token that was kept cannot be read", e);
    }
  }

  /**
   * Checks the token by which the provider says that sessions ended.
   *
   * @see "OpenID Connect Back-Channel Logout 1.0, section 2.6"
   */
  Ended ended(String logoutToken) throws ProviderException {
    OIDCProviderMetadata metadata = metadata();
    try {
      JWT token = JWTParser.parse(logoutToken);
      LogoutTokenClaimsSet claims =
          new LogoutTokenValidator(
                  metadata.getIssuer(),
                  new ClientID(settings.client()),
                  algorithm(token),
                  metadata.getJWKSetURI().toURL())
              .validate(token);
      checkFresh(claims);
      return new Ended(
          claims.getSubject() == null ? "" : claims.getSubject().getValue(),
          claims.getSessionID() == null ? "" : claims.getSessionID().getValue());
    } catch (ParseException | IOException | BadJOSEException | JOSEException | RuntimeException e) {
      throw new ProviderException("the end of a session is not confirmed: " + e, e);
    }
  }

  /** A token that says a session ended counts once, and only soon after it was issued. */
  private void checkFresh(LogoutTokenClaimsSet claims) throws BadJOSEException {
    Instant issued =
        claims.getIssueTime() == null ? Instant.EPOCH : claims.getIssueTime().toInstant();
    if (issued.isBefore(clock.instant().minus(LOGOUT_COUNTS))) {
      throw new BadJOSEException("the token was issued at " + issued + ", too long ago");
    }
    String id = claims.getJWTID() == null ? "" : claims.getJWTID().getValue();
    if (usedLogouts.asMap().putIfAbsent(id, Boolean.TRUE) != null) {
      throw new BadJOSEException("the token was used before");
    }
  }
}
