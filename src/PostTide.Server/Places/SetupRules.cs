using FluentValidation;
using PostTide.Core.Replies;
using PostTide.Destinations;

namespace PostTide.Server.Places;

/// <summary>Validates a request before its handler sees it, and answers with every problem by field (RFC 9457).</summary>
internal sealed class Validated<T>(IValidator<T> validator) : IEndpointFilter
{
    public async ValueTask<object?> InvokeAsync(EndpointFilterInvocationContext context, EndpointFilterDelegate next)
    {
        var result = await validator.ValidateAsync(context.Arguments.OfType<T>().Single());
        return result.IsValid ? await next(context) : TypedResults.ValidationProblem(result.ToDictionary(), title: result.Errors[0].ErrorMessage);
    }
}

internal sealed class MailboxRules : AbstractValidator<MailboxSetup>
{
    public MailboxRules()
    {
        RuleFor(m => m.Name).NotEmpty().WithMessage("A mailbox needs a name.").MaximumLength(120);
        RuleForEach(m => m.Addresses).Must(a => ReplySafety.IsPlainAddress(a.Trim())).WithMessage((_, a) => $"“{a}” is not an e-mail address.");
        RuleFor(m => m.Addresses).NotEmpty().WithMessage("A mailbox needs at least one address.");
    }
}

internal sealed class QueueRules : AbstractValidator<QueueSetup>
{
    public QueueRules() => RuleFor(q => q.Name).NotEmpty().WithMessage("A queue needs a name.").MaximumLength(120);
}

internal sealed class KeywordListRules : AbstractValidator<KeywordListSetup>
{
    public KeywordListRules()
    {
        RuleFor(k => k.Name).NotEmpty().WithMessage("A keyword list needs a name.").MaximumLength(120);
        RuleFor(k => k.Words).Must(w => w.Count <= 100_000).WithMessage("A keyword list holds at most 100,000 words.");
        RuleForEach(k => k.Words).MaximumLength(200).WithMessage("A word or phrase has at most 200 characters.");
    }
}

internal sealed class TemplateRules : AbstractValidator<TemplateSetup>
{
    public TemplateRules()
    {
        RuleFor(t => t.Name).NotEmpty().WithMessage("A template needs a name.").MaximumLength(120);
        RuleFor(t => t.Body).NotEmpty().WithMessage("A template needs a text.")
            .Custom((body, context) =>
            {
                if (LiquidText.Check(body) is { } error)
                {
                    context.AddFailure($"The template cannot be read: {error}");
                }
            });
    }
}

internal sealed class DestinationRules : AbstractValidator<DestinationSetup>
{
    public DestinationRules()
    {
        RuleFor(d => d.Name).NotEmpty().WithMessage("A destination needs a name.").MaximumLength(120);
        RuleFor(d => d.Url).Must(HttpDestination.IsUsable).WithMessage("A destination needs a full address that begins with http:// or https:// and holds no password.");
    }
}

internal sealed class DoNotMailRules : AbstractValidator<DoNotMailSetup>
{
    public DoNotMailRules() => RuleForEach(d => d.Entries)
        .Must(e => e.Trim().Length == 0 || ReplySafety.IsPlainAddress(e.Contains('@', StringComparison.Ordinal) ? e.Trim() : $"a@{e.Trim()}"))
        .WithMessage((_, e) => $"“{e}” is neither an address nor a domain.");
}
