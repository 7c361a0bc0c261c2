using System.Net;
using System.Net.Http.Json;
using System.Text.Json;

namespace PostTide.Destinations;

/// <summary>What is passed on about a message.</summary>
/// <param name="Message">The message in Post Tide.</param>
/// <param name="Workflow">The workflow that passed it on, or null when a person did.</param>
/// <param name="Subject">Its subject.</param>
/// <param name="Sender">The sender's address.</param>
/// <param name="Arrived">When it came in.</param>
/// <param name="Ticket">Its ticket, if it has one.</param>
/// <param name="Facts">What was read out, by name; null for what was not found.</param>
public sealed record PassedOn(
    long Message, string? Workflow, string Subject, string Sender, DateTimeOffset Arrived, string? Ticket,
    IReadOnlyDictionary<string, string?> Facts);

/// <summary>The other application did not take it.</summary>
/// <param name="why">What happened, in a sentence.</param>
/// <param name="inner">What went wrong underneath, if anything.</param>
public sealed class PassingOnFailedException(string why, Exception? inner = null) : Exception(why, inner);

/// <summary>Passes facts on by HTTP POST, with the deed's key as <c>Idempotency-Key</c> so that a repeat can be told from a new record.</summary>
public sealed class HttpDestination(HttpClient http)
{
    public const string IdempotencyKey = "Idempotency-Key";

    private const int LongestAnswer = 300;

    /// <summary>Handlers must not follow redirects: they could lead to an address nobody allowed.</summary>
    public static HttpClientHandler Handler() => new() { AllowAutoRedirect = false, UseProxy = false, UseCookies = false };

    /// <summary>Whether an address can be a destination: absolute, http or https, without a user name in it.</summary>
    public static bool IsUsable(string url) => Uri.TryCreate(url, UriKind.Absolute, out var uri)
        && (uri.Scheme == Uri.UriSchemeHttp || uri.Scheme == Uri.UriSchemeHttps) && uri.UserInfo.Length == 0;

    /// <summary>Sends one record and gives the other side's answer in a sentence.</summary>
    /// <exception cref="PassingOnFailedException">It could not be reached or did not answer with a 2xx status.</exception>
    public async Task<string> PassOnAsync(string url, Guid key, PassedOn record, CancellationToken stop)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, url)
        {
            Content = JsonContent.Create(record, options: JsonSerializerOptions.Web),
        };
        request.Headers.Add(IdempotencyKey, key.ToString());
        try
        {
            using var response = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, stop);
            var answer = await ReadAnswerAsync(response, stop);
            var said = answer.Length == 0 ? "" : $": {answer}";
            return response.IsSuccessStatusCode
                ? $"It answered {(int)response.StatusCode}{said}"
                : throw new PassingOnFailedException($"It answered {(int)response.StatusCode} {Name(response.StatusCode)}{said}");
        }
        catch (Exception e) when (e is HttpRequestException or IOException || (e is TaskCanceledException && !stop.IsCancellationRequested))
        {
            throw new PassingOnFailedException($"It could not be reached: {e.Message}", e);
        }
    }

    /// <summary>Only the beginning of the answer is read, however long it is.</summary>
    private static async Task<string> ReadAnswerAsync(HttpResponseMessage response, CancellationToken stop)
    {
        using var reader = new StreamReader(await response.Content.ReadAsStreamAsync(stop));
        var buffer = new char[LongestAnswer];
        var length = await reader.ReadBlockAsync(buffer, stop);
        return Core.Text.CleanText.Line(new string(buffer, 0, length));
    }

    private static string Name(HttpStatusCode status) => Enum.IsDefined(status) ? status.ToString() : "";
}
