using System.Security.Claims;
using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.Options;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.SignIn;

/// <summary>The claims a signed-in person carries besides Identity's own.</summary>
internal static class PersonClaims
{
    public const string DisplayName = "display_name";
}

/// <summary>People, their permissions and the cookie they sign in with.</summary>
internal static class People
{
    private static readonly TimeSpan Session = TimeSpan.FromHours(12);

    public static void AddPeople(this IServiceCollection services)
    {
        services.AddPeopleStore().AddSignInManager().AddClaimsPrincipalFactory<ClaimsFactory>();
        services.AddAuthentication(IdentityConstants.ApplicationScheme).AddIdentityCookies();
        services.ConfigureApplicationCookie(o =>
        {
            o.Cookie.Name = "posttide";
            o.Cookie.HttpOnly = true;
            o.Cookie.SameSite = SameSiteMode.Strict;
            o.ExpireTimeSpan = Session;
            o.SlidingExpiration = true;
            o.Events.OnRedirectToLogin = c => Answer(c.Response, StatusCodes.Status401Unauthorized);
            o.Events.OnRedirectToAccessDenied = c => Answer(c.Response, StatusCodes.Status403Forbidden);
        });
        var policies = services.AddAuthorizationBuilder();
        foreach (var permission in Permissions.All)
        {
            policies.AddPolicy(permission, p => p.RequireRole(permission));
        }

        services.AddAntiforgery(o =>
        {
            o.HeaderName = RequestTokens.Header;
            o.Cookie.Name = "posttide-token";
            o.Cookie.SameSite = SameSiteMode.Strict;
        });
    }

    private static Task Answer(HttpResponse response, int status)
    {
        response.StatusCode = status;
        return Task.CompletedTask;
    }

    private sealed class ClaimsFactory(UserManager<Person> people, RoleManager<IdentityRole<long>> roles, IOptions<IdentityOptions> options)
        : UserClaimsPrincipalFactory<Person, IdentityRole<long>>(people, roles, options)
    {
        protected override async Task<ClaimsIdentity> GenerateClaimsAsync(Person user)
        {
            var identity = await base.GenerateClaimsAsync(user);
            identity.AddClaim(new Claim(PersonClaims.DisplayName, user.DisplayName));
            return identity;
        }
    }
}
