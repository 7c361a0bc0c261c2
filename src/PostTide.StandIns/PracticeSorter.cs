using System.Globalization;
using System.Text.Json;
using PostTide.Core.Text;

namespace PostTide.StandIns;

/// <summary>What an outside sorter was asked.</summary>
public sealed record PracticeQuestion(DateTimeOffset At, string Task, string Text, string Answer);

/// <summary>
/// An outside sorter for practice: speaks the chat-completions JSON form and chooses the category whose description shares most words
/// with the text. It can be told to fail, to be slow, or to do what the text of a message says.
/// </summary>
public sealed class PracticeSorter
{
    private const int MostKept = 200;
    private const int ShortWord = 3;
    private readonly Lock _lock = new();
    private readonly List<PracticeQuestion> _asked = [];

    public bool Fails { get; set; }
    public bool Slow { get; set; }

    /// <summary>Answers with whatever the text puts after “answer:”, as a service would that takes mail for instructions.</summary>
    public bool Obeys { get; set; }

    public IReadOnlyList<PracticeQuestion> Asked
    {
        get
        {
            lock (_lock)
            {
                return [.. _asked];
            }
        }
    }

    /// <summary>Answers a request of the form.</summary>
    public async Task<IResult> AnswerAsync(HttpRequest request, CancellationToken stop)
    {
        if (Fails)
        {
            return Results.Text("told to fail", statusCode: StatusCodes.Status503ServiceUnavailable);
        }

        if (Slow)
        {
            await Task.Delay(TimeSpan.FromSeconds(60), stop);
        }

        using var body = await JsonDocument.ParseAsync(request.Body, cancellationToken: stop);
        var messages = body.RootElement.GetProperty("messages").EnumerateArray().Select(m => (Role: m.GetProperty("role").GetString(), Text: TextOf(m.GetProperty("content")))).ToList();
        var task = messages.FirstOrDefault(m => m.Role == "system").Text ?? "";
        var text = messages.LastOrDefault(m => m.Role == "user").Text ?? "";
        var command = text.IndexOf("answer:", StringComparison.OrdinalIgnoreCase);
        var answer = Obeys && command >= 0 ? text[(command + 7)..].Trim() : JsonSerializer.Serialize(new { category = Choose(task, text) });
        lock (_lock)
        {
            _asked.Add(new PracticeQuestion(DateTimeOffset.UtcNow, task, text, answer));
            _asked.RemoveRange(0, Math.Max(0, _asked.Count - MostKept));
        }

        return Results.Json(new
        {
            id = "practice",
            @object = "chat.completion",
            created = DateTimeOffset.UtcNow.ToUnixTimeSeconds(),
            model = "practice",
            choices = new[] { new { index = 0, message = new { role = "assistant", content = answer }, finish_reason = "stop" } },
            usage = new { prompt_tokens = 0, completion_tokens = 0, total_tokens = 0 },
        });
    }

    private static int Choose(string task, string text)
    {
        var words = WordsOf(text);
        var (best, most) = (0, 1);
        foreach (var line in task.Split('\n'))
        {
            var at = line.IndexOf(". ", StringComparison.Ordinal);
            if (at > 0 && int.TryParse(line.AsSpan(0, at), CultureInfo.InvariantCulture, out var number) && WordsOf(line[at..]).Count(words.Contains) is var shared && shared > most)
            {
                (best, most) = (number, shared);
            }
        }

        return best;
    }

    private static HashSet<string> WordsOf(string text) =>
        [.. Words.In(text, 0, text.Length).Where(w => w.Length > ShortWord).Select(w => text.Substring(w.Start, w.Length).ToLowerInvariant())];

    private static string TextOf(JsonElement content) => content.ValueKind == JsonValueKind.String
        ? content.GetString() ?? ""
        : string.Concat(content.EnumerateArray().Select(p => p.TryGetProperty("text", out var t) ? t.GetString() : ""));
}
