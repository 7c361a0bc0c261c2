using System.ClientModel;
using System.ClientModel.Primitives;
using Microsoft.Extensions.AI;
using OpenAI;
using PostTide.Core.Sorting;

namespace PostTide.Destinations;

/// <summary>A service that can be asked to sort.</summary>
/// <param name="Address">The address below which it has <c>chat/completions</c>.</param>
/// <param name="Model">The model it is asked to use.</param>
/// <param name="Key">The key; empty for none.</param>
/// <param name="Timeout">How long one try may take.</param>
public sealed record OutsideService(string Address, string Model, string Key, TimeSpan Timeout);

/// <summary>The service could not be asked, or gave no usable answer.</summary>
/// <param name="why">What happened, in a sentence.</param>
/// <param name="inner">What went wrong underneath, if anything.</param>
public sealed class OutsideSorterException(string why, Exception? inner = null) : Exception(why, inner);

/// <summary>Asks a service that speaks the chat-completions JSON form which category a message belongs to.</summary>
/// <param name="http">Must not follow redirects.</param>
public sealed class OutsideSorter(HttpClient http)
{
    private const int Retries = 1;
    private const int LongestAnswer = 50;

    /// <summary>Asks. Only the number of a category counts as an answer, whatever else is said.</summary>
    /// <returns>The category; null for none of these.</returns>
    /// <exception cref="OutsideSorterException">There is no answer.</exception>
    public async Task<string?> AskAsync(OutsideService service, SorterSettings settings, OutsideQuestion question, CancellationToken stop)
    {
        if (!HttpDestination.IsUsable(service.Address))
        {
            throw new OutsideSorterException("The address of the outside sorter is not one that can be asked.");
        }

        try
        {
            using var timeout = CancellationTokenSource.CreateLinkedTokenSource(stop);
            timeout.CancelAfter(service.Timeout * (Retries + 1.5));
            var client = new OpenAIClient(new ApiKeyCredential(service.Key.Length == 0 ? "none" : service.Key), new OpenAIClientOptions
            {
                Endpoint = new Uri(service.Address),
                NetworkTimeout = service.Timeout,
                RetryPolicy = new ClientRetryPolicy(Retries),
                Transport = new HttpClientPipelineTransport(http),
            }).GetChatClient(service.Model).AsIChatClient();
            var response = await client.GetResponseAsync(
                [new ChatMessage(ChatRole.System, question.Task), new ChatMessage(ChatRole.User, question.Text)],
                new ChatOptions { Temperature = 0, MaxOutputTokens = LongestAnswer }, timeout.Token);
            return OutsideQuestion.TryRead(response.Text, settings, out var category)
                ? category
                : throw new OutsideSorterException("The outside sorter answered something that is no category.");
        }
        catch (ClientResultException e)
        {
            throw new OutsideSorterException($"The outside sorter answered {e.Status}.", e);
        }
        catch (Exception e) when (e is HttpRequestException or IOException or AggregateException or System.Text.Json.JsonException or InvalidOperationException or ArgumentException or FormatException
            || (e is OperationCanceledException && !stop.IsCancellationRequested))
        {
            throw new OutsideSorterException(e is OperationCanceledException ? "The outside sorter took too long." : $"The outside sorter could not be asked: {e.Message}", e);
        }
    }
}
