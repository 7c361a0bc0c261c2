using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.Options;
using PostTide.Engine;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.SignIn;

/// <summary>Who is signed in, and what the page needs to begin.</summary>
/// <param name="SignedIn">Whether anybody is.</param>
/// <param name="Name">The display name, empty when nobody is.</param>
/// <param name="Permissions">What they may do.</param>
/// <param name="RequestToken">To be sent back with every request that changes something.</param>
/// <param name="Office">The name of the office.</param>
/// <param name="PracticeAddress">Where the practice stand-ins are shown; null outside a demo.</param>
public sealed record Me(bool SignedIn, string Name, IReadOnlyList<string> Permissions, string RequestToken, string Office, string? PracticeAddress);

/// <summary>An attempt to sign in.</summary>
public sealed record SignInRequest(string Email, string Password);

/// <summary>Signing in and out.</summary>
internal static class SignInEndpoints
{
    public static void MapSignIn(this WebApplication app)
    {
        var group = app.MapGroup("/api").WithTags("Sign-in").AllowAnonymous();
        group.MapGet("/me", ReadMe);
        group.MapPost("/sign-in", SignInAsync);
        group.MapPost("/sign-out", SignOutAsync);
    }

    private static Me ReadMe(HttpContext http, IAntiforgery tokens, IOptions<EngineOptions> options, IConfiguration configuration)
    {
        var user = http.User;
        return new Me(
            user.Identity?.IsAuthenticated == true,
            user.DisplayName(),
            [.. Permissions.All.Where(user.IsInRole)],
            tokens.GetAndStoreTokens(http).RequestToken ?? "",
            options.Value.OfficeName,
            configuration["PostTide:PracticeAddress"]);
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SignInAsync(SignInRequest request, SignInManager<Person> signIn)
    {
        var person = await signIn.UserManager.FindByEmailAsync(request.Email);
        var result = person is null ? SignInResult.Failed : await signIn.PasswordSignInAsync(person, request.Password, isPersistent: true, lockoutOnFailure: true);
        return result switch
        {
            { Succeeded: true } => TypedResults.NoContent(),
            { IsLockedOut: true } => TypedResults.Problem(
                title: "Too many wrong passwords. This account is closed for five minutes.", statusCode: StatusCodes.Status423Locked),
            _ => TypedResults.Problem(title: "The address or the password is wrong.", statusCode: StatusCodes.Status401Unauthorized),
        };
    }

    private static async Task<NoContent> SignOutAsync(SignInManager<Person> signIn)
    {
        await signIn.SignOutAsync();
        return TypedResults.NoContent();
    }
}
