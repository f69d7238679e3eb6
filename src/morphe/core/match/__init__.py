"""Matching: how far pictures are apart in their colours, and the correction that brings one to the other."""
