"""The whole configuration of a bridge as one document: handed out, compared, applied to another bridge."""
