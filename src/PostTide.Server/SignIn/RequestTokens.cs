using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Mvc;

namespace PostTide.Server.SignIn;

/// <summary>Every request that changes something must carry the token the page was given, so that no other page can send it.</summary>
internal static class RequestTokens
{
    public const string Header = "X-Request-Token";

    public static void UseRequestTokens(this WebApplication app) => app.Use(async (context, next) =>
    {
        var changes = !HttpMethods.IsGet(context.Request.Method) && !HttpMethods.IsHead(context.Request.Method);
        if (changes && context.Request.Path.StartsWithSegments("/api", StringComparison.Ordinal)
            && !await context.RequestServices.GetRequiredService<IAntiforgery>().IsRequestValidAsync(context))
        {
            var problem = new ProblemDetails
            {
                Status = StatusCodes.Status400BadRequest,
                Title = "The request carries no valid token, so nothing was changed. Reload the page and try again.",
            };
            await Results.Problem(problem).ExecuteAsync(context);
            return;
        }

        await next();
    });
}
