using System.Security.Claims;
using FluentValidation;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using PostTide.Engine.Deeds;
using PostTide.Server.Live;
using PostTide.Server.Places;
using PostTide.Server.SignIn;
using PostTide.Store;

namespace PostTide.Server;

/// <summary>What the web side of the server is made of.</summary>
internal static class Web
{
    private const string AppPolicy =
        "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; connect-src 'self' ws: wss:; "
        + "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'";

    public static void AddWeb(this WebApplicationBuilder builder)
    {
        builder.Services.ConfigureHttpJsonOptions(o => Documents.Configure(o.SerializerOptions));

        // Requests that cannot be read come to the handler below, which says what is wrong with them.
        builder.Services.Configure<RouteHandlerOptions>(o => o.ThrowOnBadRequest = true);
        builder.Services.AddOpenApi();
        builder.Services.AddProblemDetails();
        builder.Services.AddExceptionHandler<Refusals>();
        builder.Services.AddPeople();
        builder.Services.AddHttpContextAccessor();
        builder.Services.AddScoped<ItemChanges>();
        builder.Services.AddScoped<Saver>();
        builder.Services.AddSingleton<IValidator<MailboxSetup>, MailboxRules>();
        builder.Services.AddSingleton<IValidator<QueueSetup>, QueueRules>();
        builder.Services.AddSingleton<IValidator<KeywordListSetup>, KeywordListRules>();
        builder.Services.AddSingleton<IValidator<SavedConditionSetup>, SavedConditionRules>();
        builder.Services.AddSingleton<IValidator<DeskHoursSetup>, DeskHoursRules>();
        builder.Services.AddSingleton<IValidator<TemplateSetup>, TemplateRules>();
        builder.Services.AddSingleton<IValidator<DestinationSetup>, DestinationRules>();
        builder.Services.AddSingleton<IValidator<DoNotMailSetup>, DoNotMailRules>();
        builder.Services.AddSignalR();
        builder.Services.AddHostedService<LiveUpdates>();
    }

    /// <summary>Tells the browser what the pages of the application may load, and that types are not to be guessed.</summary>
    public static void UsePageSafety(this WebApplication app) => app.Use((context, next) =>
    {
        var headers = context.Response.Headers;
        headers.ContentSecurityPolicy = AppPolicy;
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "no-referrer";
        return next();
    });

    /// <summary>The name that goes into histories and timelines.</summary>
    public static string DisplayName(this ClaimsPrincipal user) => user.FindFirstValue(PersonClaims.DisplayName) ?? user.Identity?.Name ?? "";

    public static long PersonId(this ClaimsPrincipal user) =>
        long.Parse(user.FindFirstValue(ClaimTypes.NameIdentifier)!, System.Globalization.CultureInfo.InvariantCulture);

    /// <summary>Turns refusals into problem details (RFC 9457) a person can act on.</summary>
    private sealed class Refusals(IProblemDetailsService problems) : IExceptionHandler
    {
        public async ValueTask<bool> TryHandleAsync(HttpContext httpContext, Exception exception, CancellationToken cancellationToken)
        {
            var (status, title) = exception switch
            {
                RefusedException e => (StatusCodes.Status409Conflict, e.Message),
                DbUpdateConcurrencyException => (StatusCodes.Status409Conflict, "Somebody else changed this in the meantime. Nothing was saved; look again and repeat your change."),
                DbUpdateException { InnerException: Npgsql.PostgresException { SqlState: "23505" } } =>
                    (StatusCodes.Status409Conflict, "There is one like this already. Nothing was saved."),
                DbUpdateException { InnerException: Npgsql.PostgresException { SqlState: "23503" } } =>
                    (StatusCodes.Status409Conflict, "Something else still uses this, so it was kept."),
                BadHttpRequestException e => (e.StatusCode, e.InnerException is System.Text.Json.JsonException j ? $"The request cannot be read: {j.Message}" : e.Message),
                _ => (0, ""),
            };
            if (status == 0)
            {
                return false;
            }

            httpContext.Response.StatusCode = status;
            return await problems.TryWriteAsync(new ProblemDetailsContext
            {
                HttpContext = httpContext,
                ProblemDetails = new ProblemDetails { Status = status, Title = title },
            });
        }
    }
}
